// The live picture: a camera or the made-up one, drawn, measured on the server, and shown as a needle and a curve.
import { withHand } from "../../../shell/script/carry.js";
import { Camera } from "./camera.js";
import { Gauge } from "./gauge.js";
import { Guide } from "./guide.js";
import { Measuring } from "./measuring.js";
import { Outline } from "./outline.js";
import { keepStill } from "./still.js";
import { Tone } from "./tone.js";
import { View } from "./view.js";

const DRIFTED = "Focus has drifted: turn back to the best";
const READY = "Press Next when you are ready";
const field = (name) => document.getElementById(`live-${name}`);

export function startLive() {
  new Live(document.getElementById("live"), JSON.parse(document.getElementById("live-plan").textContent)).begin();
}

class Live {
  constructor(root, plan) {
    Object.assign(this, { root, plan, scale: plan.scale });
    this.video = Object.assign(document.createElement("video"), { muted: true, playsInline: true });
    this.view = new View(root.querySelector("canvas"), this.video, () => this.moved());
    this.gauge = new Gauge(root.querySelector(".live-needle"), root.querySelector(".live-curve"));
    this.guide = new Guide(field("guide"), field("do"), root.querySelector("[data-live=next]"), () => this.measuring.renew());
    this.tone = new Tone(field("tone"));
    this.measuring = new Measuring(this.view, () => this.asked(), (answer) => this.answered(answer), (problem) => this.told(problem));
    this.outline = new Outline(field("outline"), this.view, () => this.scale, (problem) => this.told(problem));
    this.camera = new Camera(root, this.video, this);
  }

  begin() {
    this.gauge.name(this.scale.half);
    this.outline.offer(this.scale.levels);
    const act = (name, does) => {
      const button = this.root.querySelector(`[data-live=${name}]`);
      button?.addEventListener("click", does);
      button?.removeAttribute("disabled"); // until now nobody would have heard it
    };
    act("open", () => this.camera.open());
    act("try", () => this.camera.tryOut());
    for (const name of ["step", "frames", "turn"]) field(name).addEventListener("change", () => this.rescale());
    field("device").addEventListener("change", () => this.camera.open());
    field("scene").addEventListener("change", () => this.camera.madeUp && this.camera.tryOut());
    field("spot").addEventListener("change", (event) => this.view.resize(Number(event.target.value)));
    field("mirror").addEventListener("change", (event) => this.view.mirror(event.target.checked));
    field("guide").addEventListener("change", () => this.rescale());
    field("still").addEventListener("submit", (event) => this.keep(event));
    document.addEventListener("visibilitychange", () => document.hidden && this.said("Paused while this page is hidden"));
    document.addEventListener("keydown", (event) => this.pressed(event));
    addEventListener("pagehide", () => {
      this.camera.close();
      this.tone.rest();
    });
  }

  // A picture has begun to play: every new frame is drawn, and measured unless the one before is still on its way.
  begun() {
    this.video.addEventListener("loadedmetadata", () => this.rescale(), { once: true });
    this.guide.restart();
    this.said("Turn the ring slowly through focus");
    this.camera.each(() => {
      this.view.draw();
      this.measuring.look();
      this.outline.look(this.guide.key === "limits");
    });
  }

  // An answer that is still on its way would clear the problem.
  ended(problem) {
    this.measuring.renew();
    this.told(problem);
  }

  aimed(x, y) {
    this.view.aim(x, y);
  }

  asked() {
    const [at, rate] = [field("at").value.trim(), field("rate").value.trim()];
    const place = at ? { at } : rate ? { rate, seconds: (performance.now() / 1000).toFixed(3) } : {};
    return { sharp_px: this.scale.sharp_px, ...this.guide.asked(this.scale), ...place };
  }

  answered(answer) {
    this.told("");
    this.guide.take(answer);
    this.gauge.show(answer);
    this.tone.play(answer);
    this.said(answer.drifted ? DRIFTED : this.guide.byHand ? READY : answer.says);
    field("why").textContent = answer.why;
    if (this.guide.key !== "limits") field("found").textContent = answer.found;
    Object.assign(this.root.dataset, { state: answer.state, best: answer.best_frame ?? "", share: answer.share, answers: Number(this.root.dataset.answers ?? 0) + 1 });
  }

  async rescale() {
    this.guide.restart();
    const stack = this.guide.key === "stack" ? { frames: field("frames").value || 0, turn: field("turn").value || 0 } : {};
    const query = new URLSearchParams({ px: this.video.videoWidth || this.plan.px, step: field("step").value || 1, ...stack });
    const found = await fetch(withHand(`/aids/live/scale?${query}&${this.plan.query}`)).then((answer) => answer.json()).catch(() => null);
    if (!found || found.error) return this.told(found?.error ?? "Welotrope does not answer.");
    this.scale = found;
    if (this.video.videoWidth && !this.camera.madeUp) field("px").value = this.video.videoWidth;
    field("sent").value = field("step").value;
    this.gauge.name(found.half);
    this.outline.offer(found.levels);
    field("scale").textContent = `${found.says} ${found.tells}`;
    this.measuring.renew();
  }

  pressed(event) {
    if (event.target.matches("input, select, textarea") || event.ctrlKey || event.metaKey || event.altKey) return;
    if ("1234".includes(event.key)) this.view.zoomTo(["fit", "1", "6", "12"][event.key - 1]);
    else if (event.key === "n") this.guide.next();
    else if (event.key === "o") this.outline.toggle();
  }

  async keep(event) {
    event.preventDefault();
    const problem = await keepStill(event.target, this.video);
    if (problem) this.told(problem);
  }

  moved() {
    this.measuring.renew();
  }

  said(words) {
    if (field("says").textContent !== words) field("says").textContent = words;
  }

  told(problem) {
    field("problem").textContent = problem;
    field("problem").hidden = !problem;
  }
}
