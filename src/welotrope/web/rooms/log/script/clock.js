// The clock that is photographed: the computer's own, to the second.
export function startClock() {
  const shown = document.getElementById("clock");
  const tick = () => {
    const now = new Date();
    shown.textContent = [now.getHours(), now.getMinutes(), now.getSeconds()].map((part) => String(part).padStart(2, "0")).join(":");
    setTimeout(tick, 1000 - now.getMilliseconds());
  };
  tick();
}
