// A round in the finder: what the ring asks for is fetched and drawn, and the release is sent.
import { bindControls } from "./controls.js";
import { Fading } from "./fading.js";
import { Frames } from "./frames.js";
import { runScene } from "./motion.js";
import { Places } from "./places.js";
import { Releasing } from "./release.js";
import { TurningRing } from "./ring.js";
import { Screen } from "./screen.js";
import { Trace } from "./trace.js";

const within = (value, most) => Number(Math.max(-most, Math.min(most, value)).toFixed(2));
const movedArea = ([x, y], right, down) => [within(x + right, 18), within(y + down, 12)];

export function startFinder() {
  new Finder(document.getElementById("finder"), JSON.parse(document.getElementById("finder-plan").textContent)).begin();
}

class Finder {
  constructor(root, plan) {
    const canvas = root.querySelector("canvas");
    Object.assign(this, { root, plan, canvas, screen: new Screen(root), strip: root.querySelector(".finder-strip"), trace: new Trace() });
    this.state = {
      step: plan.first_step, turned: plan.turned, mask: false, level: plan.levels[plan.levels.length > 1 ? 1 : 0] ?? "",
      colour: plan.colours[0], way: 1, speed: 0, area: plan.area, running: !plan.moving,
    };
    this.places = new Places(plan, this.state);
    this.frames = new Frames(plan.base, () => (plan.moving || this.state.sent ? [] : this.places.wanted(this.ring.value, { pace: this.frames.pace(), seconds: this.frames.seconds })), (_arrived, problem) => this.arrived(problem));
    this.fading = new Fading(this.frames, this.places, this.screen, () => this.started());
    this.releasing = new Releasing(root, plan.base, (problem) => this.notSent(problem));
    this.ring = this.turningRing();
  }

  turningRing() {
    const { plan, places, plan: { lean } } = this;
    return new TurningRing([this.canvas, this.strip], {
      low: lean ? -lean : 0, high: lean || plan.throw_deg, value: lean ? 0 : plan.start_deg, direction: plan.direction,
      fine: places.fine(), coarse: lean ? 10 : 4,
      up: lean ? 1 : -1, // up is farther on a ring, and towards the scene when leaning
    }, (value) => this.turned(value));
  }

  begin() {
    const { canvas, plan } = this;
    const acts = this.acts();
    bindControls(this.root, acts, this.ring, (name, value) => this.change({ [name]: name === "step" ? Number(value) : value }));
    // The magnified area follows a double tap.
    canvas.addEventListener("dblclick", (event) => {
      const box = canvas.getBoundingClientRect();
      acts.move((event.clientX - box.left) / box.width - 0.5, (event.clientY - box.top) / box.height - 0.5);
    });
    addEventListener("pagehide", () => {
      this.frames.leave();
      navigator.sendBeacon(`${plan.base}/leave`);
    });
    addEventListener("pageshow", (event) => event.persisted && location.reload());
    this.change({});
    this.turned(this.ring.value);
    if (!plan.moving) return;
    runScene(this.frames, this.trace, this.state, () => this.places.index(this.ring.value), () => this.places.view(), (picture) => this.paint(picture)).catch((problem) => this.fail(problem));
  }

  acts() {
    const { plan, state } = this;
    const next = () => plan.steps[(plan.steps.indexOf(state.step) + 1) % plan.steps.length];
    return {
      release: () => this.release(),
      magnify: () => this.change({ step: next(), ...(plan.peak_first ? { level: "" } : {}) }),
      turn: () => this.change({ turned: !state.turned }),
      mask: () => this.change({ mask: !state.mask }),
      move: (right, down) => plan.live && state.step > 1 && this.change({ area: movedArea(state.area, right * 36 / state.step, down * 24 / state.step) }),
    };
  }

  arrived(problem) {
    if (problem) this.fail(problem);
    this.draw();
    this.progress();
  }

  started() {
    if (!this.trace.started) this.trace.start(this.ring.value);
  }

  fail(problem) {
    if (!this.frames.leaving.signal.aborted) this.screen.say(problem);
  }

  turned(value) {
    const { state, strip, plan } = this;
    this.places.turned(value);
    this.trace.note(value);
    strip.style.setProperty("background-position-x", `${-value * 8 * plan.direction}px`);
    strip.setAttribute("aria-valuenow", value.toFixed(1));
    strip.setAttribute("aria-valuetext", `${value.toFixed(1)} ${plan.lean ? "millimetres" : "degrees"}`);
    this.draw();
    this.frames.pump();
  }

  draw() {
    if (!this.plan.moving) this.fading.wake(this.ring.value);
  }

  paint(picture) {
    this.screen.paint(picture);
    this.started();
  }

  progress() {
    const set = this.plan.moving ? [] : this.places.evenSet();
    this.screen.progress(set.filter((i) => this.frames.blobs.has(this.places.key(i))).length, set.length);
  }

  change(patch) {
    const state = Object.assign(this.state, patch);
    this.ring.fine = this.places.fine();
    for (const button of this.root.querySelectorAll("[data-set]")) {
      button.setAttribute("aria-pressed", String(state[button.dataset.set]) === button.dataset.value);
    }
    this.screen.size(this.plan, state.step);
    this.fading.renew();
    this.draw();
    this.frames.pump();
    this.progress();
  }

  async release() {
    const { state, trace, ring, plan } = this;
    if (!state.running) return this.go();
    if (state.sent || !trace.started) return;
    const sent = { angle: plan.lean ? plan.start_deg : ring.value, lean: plan.lean ? ring.value : 0, seconds: trace.seconds(), path: trace.json(), step: state.step, level: state.level, shown: this.canvas.clientWidth };
    state.sent = true;
    await this.frames.quiet();
    await this.releasing.send(sent);
  }

  go() {
    this.state.running = true;
    this.trace.start(this.ring.value);
    this.root.querySelector("[data-act=release]").firstChild.textContent = "Release ";
    return this.state.go?.();
  }

  notSent(problem) {
    if (problem) this.fail(problem);
    this.state.sent = false;
    this.strip.focus();
    this.frames.pump();
  }
}
