// Ten presses, each as soon as a button lights up; what they mean the server works out.
const PRESSES = 10, LEAST_WAIT_MS = 900, MOST_WAIT_MS = 2600;

export function startReaction() {
  const part = document.querySelector("[data-reaction]");
  if (!part) return;
  const find = (name) => part.querySelector(`[data-reaction-${name}]`);
  const test = { form: part.querySelector("form"), go: find("go"), light: find("light"), count: find("count"), keep: find("keep"), times: [] };
  test.go.addEventListener("click", () => begin(test));
  // The press counts, not its end.
  test.light.addEventListener("pointerdown", () => pressed(test));
  test.light.addEventListener("keydown", (event) => {
    if (event.key !== " " && event.key !== "Enter") return;
    event.preventDefault();
    if (!event.repeat) pressed(test);
  });
}

function begin(test) {
  for (const old of test.form.querySelectorAll('[name="press"]')) old.remove();
  test.times = [];
  test.go.hidden = test.keep.hidden = true;
  test.light.hidden = false;
  test.light.focus();
  wait(test);
}

function wait(test) {
  test.lit = 0;
  test.light.classList.remove("lit");
  test.light.textContent = "wait";
  test.count.textContent = `${test.times.length} of ${PRESSES}`;
  const pause = LEAST_WAIT_MS + Math.random() * (MOST_WAIT_MS - LEAST_WAIT_MS);
  test.timer = setTimeout(() => {
    test.light.classList.add("lit");
    test.light.textContent = "now";
    requestAnimationFrame(() => { test.lit = performance.now(); });
  }, pause);
}

function pressed(test) {
  if (!test.lit) {
    test.count.textContent = "Too early: wait for the colour change.";
    return;
  }
  test.times.push(performance.now() - test.lit);
  if (test.times.length < PRESSES) return wait(test);
  for (const time of test.times) {
    const field = Object.assign(document.createElement("input"), { type: "hidden", name: "press", value: time.toFixed(1) });
    test.form.append(field);
  }
  test.light.hidden = true;
  test.go.hidden = test.keep.hidden = false;
  test.go.textContent = "Again";
  test.count.textContent = `${PRESSES} presses.`;
  test.keep.focus();
}
