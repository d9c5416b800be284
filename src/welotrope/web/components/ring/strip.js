// Draws and turns the unrolled ring: pointer drag, arrow keys, wheel.
import { EdgeNumerals } from "./edge_numerals.js";
import { spanText } from "../text/span_text.js";
import { distanceText, otherUnit, stopText, turnText } from "../text/distance_text.js";

const FINE_DEG = 0.25;
const COARSE_DEG = 5;
const STILL_PX = 4; // a press that moves less is a click

export class RingStrip {
  constructor(svg, state, change) {
    Object.assign(this, { svg, state, change });
    this.scale = Number(svg.dataset.pxPerDeg) * Number(svg.dataset.direction);
    this.numerals = new EdgeNumerals(svg);
    document.fonts?.ready.then(() => this.measure());
    this.strips = svg.querySelectorAll(".strip");
    this.shiftMark = svg.querySelector(".shift-mark");
    this.windows = [...svg.querySelectorAll(".window")];
    this.edges = [...svg.querySelectorAll(".window-edge")];
    this.brackets = [...svg.querySelectorAll(".bracket-group")].map((group) => ({
      group, stopIndex: state.table.stops.indexOf(Number(group.dataset.stop)), end: group.dataset.end,
      line: group.querySelector("line"), text: group.querySelector("text"),
      spare: !group.classList.contains("unlabelled"),
    }));
    document.getElementById("finest-aid")?.addEventListener("htmx:afterSettle", (event) => this.drawAid(event.currentTarget));
    svg.addEventListener("pointerdown", (event) => this.grab(event));
    svg.addEventListener("keydown", (event) => this.key(event));
    svg.addEventListener("wheel", (event) => this.wheel(event), { passive: false });
  }

  measure() {
    this.numerals.measure();
    this.numerals.draw(-this.state.angle * this.scale);
  }

  grab(event) {
    if (event.button !== 0) return;
    const from = { x: event.clientX, angle: this.state.angle };
    const preset = event.target.closest("[data-preset]")?.dataset.preset;
    const move = (moved) => this.change({ angle: from.angle - (moved.clientX - from.x) / this.scale });
    this.svg.setPointerCapture(event.pointerId);
    this.svg.addEventListener("pointermove", move);
    const drop = (dropped) => {
      this.svg.removeEventListener("pointermove", move);
      const still = dropped.type === "pointerup" && Math.abs(dropped.clientX - from.x) < STILL_PX;
      if (preset && still) document.querySelector(`.presets a[data-preset="${preset}"]`)?.click();
    };
    this.svg.addEventListener("pointerup", drop, { once: true });
    this.svg.addEventListener("pointercancel", drop, { once: true });
  }

  wheel(event) {
    if (!event.shiftKey && Math.abs(event.deltaX) <= Math.abs(event.deltaY)) return;
    event.preventDefault();
    const delta = event.deltaX || event.deltaY;
    this.change({ angle: this.state.angle + delta / this.scale });
  }

  key(event) {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const angle = turned(event, this.state, Math.sign(this.scale));
    if (angle === null) return;
    event.preventDefault();
    event.stopPropagation();
    this.change({ angle });
  }

  draw() {
    const { state, scale } = this;
    for (const strip of this.strips) strip.setAttribute("transform", `translate(${-state.angle * scale} 0)`);
    this.numerals.draw(-state.angle * scale);
    this.drawShift(state.table.shift[state.stopIndex]);
    const { near, far } = state.window;
    const ends = [(near - state.angle) * scale, (far - state.angle) * scale].sort((a, b) => a - b);
    for (const rect of this.windows) {
      rect.setAttribute("x", ends[0]);
      rect.setAttribute("width", ends[1] - ends[0]);
    }
    this.edges.forEach((line, i) => {
      line.setAttribute("x1", ends[i]);
      line.setAttribute("x2", ends[i]);
    });
    for (const bracket of this.brackets) this.drawBracket(bracket);
    const { focus } = state;
    this.svg.setAttribute("aria-valuenow", state.angle.toFixed(2));
    this.svg.setAttribute("aria-valuetext", this.words());
  }

  drawBracket({ group, stopIndex, end, line, text, spare }) {
    const { state } = this;
    const place = (state.table.window(state.angle, stopIndex)[end] - state.angle) * this.scale;
    group.setAttribute("transform", `translate(${place} 0)`);
    const chosen = stopIndex === state.stopIndex;
    const beside = Math.abs(place - (state.window[end] - state.angle) * this.scale) < 27;
    group.classList.toggle("unlabelled", !chosen && (beside || !spare));
    if (!chosen && !group.classList.contains("chosen")) return;
    group.classList.toggle("chosen", chosen);
    if (chosen) group.parentNode.append(group); // over the marks of the others
    const y = Number(chosen ? group.dataset.chosenTop : group.dataset.top);
    line.setAttribute("y1", y);
    text.setAttribute("y", y);
  }

  drawShift(degrees) {
    this.shiftMark.setAttribute("visibility", degrees ? "visible" : "hidden");
    this.shiftMark.setAttribute("transform", `translate(${-degrees * this.scale} 0)`);
  }

  // The finest aid's error either side of the index, as the server last judged it.
  drawAid(figure) {
    const degrees = figure.querySelector("[data-aid-deg]")?.dataset.aidDeg;
    const band = this.svg.querySelector(".aid-band");
    band.setAttribute("visibility", degrees ? "visible" : "hidden");
    const half = Number(degrees ?? 0) * Math.abs(this.scale);
    const [bar, left, right] = band.querySelectorAll("line");
    for (const [line, from, to] of [[bar, -half, half], [left, -half, -half], [right, half, half]]) {
      line.setAttribute("x1", from);
      line.setAttribute("x2", to);
    }
  }

  words() {
    const { unit, stop, table, focus, limits } = this.state;
    const sharp = spanText(limits.near, limits.far, unit);
    return `${distanceText(focus, unit)}, ${distanceText(focus, otherUnit(unit))}; sharp from ${sharp.near} to ${sharp.far} at ${stopText(stop)}; ${turnText(this.state.angle, table.turnIn)} from the infinity end`;
  }
}

// The angle a key turns the ring to, or null for other keys. → brings what is right of the index under it.
export function turned(event, state, direction) {
  const step = event.shiftKey ? COARSE_DEG : FINE_DEG;
  switch (event.key) {
    case "ArrowRight": return state.angle + direction * step;
    case "ArrowLeft": return state.angle - direction * step;
    case "ArrowUp": return state.angle - step;
    case "ArrowDown": return state.angle + step;
    case "PageUp": return state.angle - COARSE_DEG;
    case "PageDown": return state.angle + COARSE_DEG;
    case "Home": return 0;
    case "End": return state.table.throw;
    default: return null;
  }
}
