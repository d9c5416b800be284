// The finder's keys and buttons, and the release on its way to the server.
const KEYS = { " ": "release", m: "magnify", r: "turn", d: "mask" };

export function bindControls(root, acts, ring, choose) {
  const offered = (act) => root.querySelector(`[data-act=${act}]`);
  document.addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey || event.repeat && event.key === " ") return;
    if (event.target.closest("input, select, textarea, dialog")) return;
    if (event.key === " " && event.target.closest("a, button:not([data-act=release])")) return;
    const act = KEYS[event.key];
    if (act && offered(act)) acts[act]();
    else if (!ring.key(event)) return;
    event.preventDefault();
    event.stopImmediatePropagation();
  }, { capture: true });
  root.addEventListener("click", (event) => {
    const button = event.target.closest("[data-act], [data-set], [data-move]");
    if (!button) return;
    if (button.dataset.act) acts[button.dataset.act]();
    else if (button.dataset.move) acts.move(...button.dataset.move.split(" ").map((way) => Number(way) / 4));
    else choose(button.dataset.set, button.dataset.value);
  });
}
