// The sentence above the instruments, the figures below, the overview and the stop row.
import { indicatorText } from "./indicator_text.js";
import { placeWords } from "../ground/strip.js";
import { spanText } from "../text/span_text.js";
import { distanceText, otherUnit, roughText, stopText, turnText } from "../text/distance_text.js";

const MAX_DISTANCE_MM = 1e7;

export class Readout {
  constructor(state, change) {
    Object.assign(this, { state, change });
    this.outs = new Map([...document.querySelectorAll("[data-out]")].map((node) => [node.dataset.out, node]));
    this.stops = [...document.querySelectorAll(".stops a")];
    this.horizon = document.querySelectorAll("[data-horizon]");
    this.apart = document.getElementById("focus-apart");
    this.marks = document.querySelectorAll("[data-marks]");
    this.overview = document.getElementById("overview");
    for (const link of this.stops) {
      link.addEventListener("click", (event) => {
        event.preventDefault();
        change({ stopIndex: state.table.stops.indexOf(Number(link.dataset.stop)) });
      });
    }
    for (const link of document.querySelectorAll("[data-far-mark]")) {
      link.addEventListener("click", (event) => {
        event.preventDefault();
        change({ angle: this.farMark(link.dataset.farMark) });
      });
    }
    this.overview?.addEventListener("click", (event) => change({ angle: this.overviewAngle(event) }));
  }

  farMark(which) {
    const { table, subjects, stopIndex } = this.state;
    const far = which === "subject" ? Math.max(...subjects.map((subject) => subject.mm)) : Infinity;
    return table.angleWithFarMark(far, stopIndex);
  }

  set(name, text) {
    const node = this.outs.get(name);
    if (node && node.textContent !== text) node.textContent = text;
  }

  draw() {
    const { state } = this;
    const { table, unit, angle, stopIndex } = state;
    const { near, far } = state.window;
    const hyperfocal = table.angleWithFarMark(Infinity, stopIndex);
    const limits = state.limits;
    const horizon = table.limits(hyperfocal, stopIndex);
    const distances = {
      focus: state.focus, hyperfocal: this.apart ? table.index(hyperfocal) : table.focus(hyperfocal, stopIndex),
      "hyperfocal-near": horizon.near, "hyperfocal-far": horizon.far,
    };
    const reached = Math.max(horizon.far, horizon.insideFar) > MAX_DISTANCE_MM;
    for (const note of this.horizon) note.hidden = (note.dataset.horizon === "short") === reached;
    for (const [name, mm] of Object.entries(distances)) {
      this.set(name, distanceText(mm, unit));
      this.set(`${name}-other`, distanceText(mm, otherUnit(unit)));
    }
    const spans = [spanText(limits.near, limits.far, unit), spanText(limits.near, limits.far, otherUnit(unit))];
    spans.forEach((span, index) => {
      this.set(`near${["", "-other"][index]}`, span.near);
      this.set(`far${["", "-other"][index]}`, span.far);
    });
    this.set("depth", spans[0].depth && `, ${spans[0].depth} deep`);
    const marked = stopText(table.marked(state.stop));
    const words = table.factor === 1 ? marked : `${marked} (works as ${stopText(state.stop)})`;
    this.set("stop", words);
    for (const node of document.querySelectorAll("[data-stop-mark]")) node.textContent = marked.slice(2);
    const width = table.windowWidth(angle, stopIndex);
    this.set("window-deg", turnText(width, table.turnIn));
    if (table.mmPerDegree) this.set("window-mm", `${(width * table.mmPerDegree).toFixed(1)} mm`);
    const travel = table.travelPerTurn(angle, stopIndex);
    this.set("travel", Number.isFinite(travel) ? roughText(travel, unit) : `from ∞ to ${distanceText(table.focus(angle + table.turn, stopIndex), unit)}`);
    this.set("index", distanceText(table.index(angle), unit));
    if (this.apart) this.apart.hidden = table.readsTrue(angle, stopIndex);
    for (const node of this.marks) node.hidden = (node.dataset.marks === "read") !== table.marksRead[stopIndex];
    this.set("indicator", indicatorText(angle, table.indicator, Number(this.overview.dataset.direction), width / 2));
    this.set("subjects", this.subjectWords(limits));
    for (const link of this.stops) {
      if (table.stops.indexOf(Number(link.dataset.stop)) === stopIndex) link.setAttribute("aria-current", "true");
      else link.removeAttribute("aria-current");
    }
    this.drawOverview(near, far);
  }

  subjectWords(limits) {
    const { subjects } = this.state;
    if (!subjects.length) return "";
    const inside = subjects.filter(({ mm }) => placeWords(mm, limits, this.state.unit) === "").length;
    if (inside === 1 && subjects.length === 1) return "The subject is sharp.";
    if (inside === subjects.length) return `${inside === 2 ? "Both" : `All ${inside}`} subjects are sharp.`;
    return `${inside} of ${subjects.length} subjects ${inside === 1 ? "is" : "are"} sharp.`;
  }

  overviewPlace(angle) {
    const share = Math.min(Math.max(angle / this.state.table.throw, 0), 1);
    return 3 + 94 * (Number(this.overview.dataset.direction) > 0 ? share : 1 - share);
  }

  overviewAngle(event) {
    const box = this.overview.getBoundingClientRect();
    const share = (((event.clientX - box.left) / box.width) * 100 - 3) / 94;
    return this.state.table.throw * (Number(this.overview.dataset.direction) > 0 ? share : 1 - share);
  }

  drawOverview(near, far) {
    if (!this.overview) return;
    const ends = [this.overviewPlace(near), this.overviewPlace(far)].sort((a, b) => a - b);
    const win = this.overview.querySelector(".win");
    win.setAttribute("x", `${ends[0]}%`);
    win.setAttribute("width", `${ends[1] - ends[0]}%`);
    this.overview.querySelector(".idx-at").setAttribute("x", `${this.overviewPlace(this.state.angle)}%`);
  }
}
