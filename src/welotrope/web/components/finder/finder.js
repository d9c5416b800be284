// A round in the finder: what the ring asks for is fetched and drawn, and the release is sent.
import { bindControls } from "./controls.js";
import { Frames } from "./frames.js";
import { runScene } from "./motion.js";
import { Releasing } from "./release.js";
import { TurningRing } from "./ring.js";
import { Trace } from "./trace.js";

const within = (value, most) => Number(Math.max(-most, Math.min(most, value)).toFixed(2));
const movedArea = ([x, y], right, down) => [within(x + right, 18), within(y + down, 12)];

export function startFinder() {
  const root = document.getElementById("finder");
  const plan = JSON.parse(document.getElementById("finder-plan").textContent);
  const canvas = root.querySelector("canvas");
  const pen = canvas.getContext("2d");
  const strip = root.querySelector(".finder-strip");
  const state = { step: plan.first_step, turned: plan.turned, mask: false, level: plan.levels[plan.levels.length > 1 ? 1 : 0] ?? "", colour: plan.colours[0], shown: "", drawn: 0, way: 1, area: plan.area, running: !plan.moving };
  const trace = new Trace();
  const lean = plan.lean;
  const grid = () => plan.grids[plan.steps.indexOf(state.step)];
  const index = () => (lean ? Math.round(ring.value / plan.lean_grid) : Math.round(ring.value / grid()));
  const view = () => `&step=${state.step}&x=${state.area[0]}&y=${state.area[1]}&turned=${state.turned ? 1 : 0}&mask=${state.mask ? 1 : 0}&level=${state.level}&colour=${state.colour}`;
  const key = (i) => (lean ? `l=${i}&i=0&lean=${(i * plan.lean_grid).toFixed(2)}${view()}` : `i=${i}${view()}`);
  const last = () => (lean ? Math.floor(plan.lean / plan.lean_grid) : Math.floor(plan.throw_deg / grid()));
  const first = () => (lean ? -last() : 0);

  // What is looked at, what comes next in the direction of turning, then an even set over the whole travel.
  function* wanted() {
    if (plan.moving || state.sent) return;
    const at = index();
    for (const by of [0, 1, 2, -1, 3, 4, -2, 6, 8]) {
      const i = at + by * state.way;
      if (i >= first() && i <= last()) yield key(i);
    }
    for (const i of warmSet()) yield key(i);
  }

  const warmSet = () => {
    const span = last() - first();
    const count = Math.min(22, span + 1);
    return Array.from({ length: count }, (_, k) => first() + Math.round((span * k) / Math.max(count - 1, 1)));
  };

  const fail = (problem) => {
    if (!frames.leaving.signal.aborted) root.querySelector(".finder-problem").textContent = String(problem);
  };
  const frames = new Frames(plan.base, wanted, (arrived, problem) => {
    if (problem) fail(problem);
    draw();
    progress();
  });
  const releasing = new Releasing(root, plan.base, (problem) => {
    if (problem) fail(problem);
    state.sent = false;
    strip.focus();
    frames.pump();
  });
  const ring = new TurningRing([canvas, strip], {
    low: lean ? -lean : 0, high: lean || plan.throw_deg, value: lean ? 0 : plan.start_deg, direction: plan.direction,
    fine: lean ? 1 : Math.max(grid() / 2, 0.05), coarse: lean ? 10 : 4,
    up: lean ? 1 : -1, // up is farther on a ring, and towards the scene when leaning
  }, turned);

  function turned(value) {
    state.way = value < (state.before ?? value) ? -1 : 1;
    state.before = value;
    trace.note(value);
    strip.style.setProperty("background-position-x", `${-value * 8 * plan.direction}px`);
    strip.setAttribute("aria-valuenow", value.toFixed(1));
    strip.setAttribute("aria-valuetext", `${value.toFixed(1)} ${lean ? "millimetres" : "degrees"}`);
    draw();
    frames.pump();
  }

  async function draw() {
    if (plan.moving) return;
    const found = frames.nearest(view(), index());
    if (!found || found === state.shown) return;
    state.shown = found;
    const picture = await frames.picture(found);
    if (state.shown !== found || frames.leaving.signal.aborted) return;
    paint(picture);
  }

  function paint(picture) {
    pen.drawImage(picture, 0, 0, canvas.width, canvas.height);
    root.dataset.frames = String((state.drawn += 1));
    if (!trace.started) trace.start(ring.value);
    root.dataset.ready = "yes";
  }

  function progress() {
    const set = warmSet();
    const there = set.filter((i) => frames.blobs.has(key(i))).length;
    const bar = root.querySelector("progress");
    bar.max = set.length;
    bar.value = there;
    bar.hidden = there === set.length || plan.moving;
    if (there === set.length) root.dataset.warm = "yes";
  }

  function change(patch) {
    Object.assign(state, patch, { shown: "" });
    ring.fine = lean ? 1 : Math.max(grid() / 2, 0.05);
    for (const button of root.querySelectorAll("[data-set]")) {
      button.setAttribute("aria-pressed", String(state[button.dataset.set]) === button.dataset.value);
    }
    draw();
    frames.pump();
    progress();
  }

  async function release() {
    if (!state.running) {
      state.running = true;
      trace.start(ring.value);
      root.querySelector("[data-act=release]").textContent = "Release (space)";
      return state.go?.();
    }
    if (state.sent || !trace.started) return;
    const sent = { angle: lean ? plan.start_deg : ring.value, lean: lean ? ring.value : 0, seconds: trace.seconds(), path: trace.json(), step: state.step, level: state.level };
    state.sent = true;
    await frames.quiet();
    await releasing.send(sent);
  }

  const acts = {
    release,
    magnify: () => change({ step: plan.steps[(plan.steps.indexOf(state.step) + 1) % plan.steps.length], ...(plan.peak_first ? { level: "" } : {}) }),
    turn: () => change({ turned: !state.turned }),
    mask: () => change({ mask: !state.mask }),
    move: (right, down) => plan.live && state.step > 1 && change({ area: movedArea(state.area, right * 36 / state.step, down * 24 / state.step) }),
  };
  bindControls(root, acts, ring, (name, value) => change({ [name]: name === "step" ? Number(value) : value }));
  // The magnified area follows a double tap.
  canvas.addEventListener("dblclick", (event) => {
    const box = canvas.getBoundingClientRect();
    acts.move((event.clientX - box.left) / box.width - 0.5, (event.clientY - box.top) / box.height - 0.5);
  });
  addEventListener("pagehide", () => {
    frames.leave();
    navigator.sendBeacon(`${plan.base}/leave`);
  });
  addEventListener("pageshow", (event) => event.persisted && location.reload());

  change({});
  turned(ring.value);
  if (plan.moving) runScene(frames, trace, state, view, paint).catch(fail);
}
