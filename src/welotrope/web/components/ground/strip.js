// Draws the scene from the side and lets the subjects be moved; places are looked up in the table it is sent with.
import { distanceText, roughText } from "../text/distance_text.js";
import { spanText } from "../text/span_text.js";

export class GroundStrip {
  constructor(svg, state, change) {
    Object.assign(this, { svg, state, change });
    const { start, end, first, step, last, infinity } = svg.dataset;
    Object.assign(this, Object.fromEntries(Object.entries({ start, end, first, step, last, infinity }).map(([k, v]) => [k, Number(v)])));
    this.table = svg.dataset.places.split(" ").map((text) => (text === "inf" ? Infinity : Number(text)));
    this.parts = Object.fromEntries(
      ["zone", "near-edge", "far-edge", "plane", "near-at", "far-at"].map((name) => [name, svg.querySelector(`.${name}`)]),
    );
    this.pegs = [...svg.querySelectorAll(".peg")];
    this.pen = document.createElement("canvas").getContext("2d"); // measures text without a layout
    this.measure();
    for (const peg of this.pegs) {
      peg.addEventListener("pointerdown", (event) => this.grab(event, peg));
      peg.addEventListener("keydown", (event) => this.key(event, peg));
    }
  }

  // What a drag must not ask the browser for again and again.
  measure() {
    this.width = this.svg.clientWidth;
    const text = this.pegs[0]?.querySelector("text");
    if (text) this.pen.font = getComputedStyle(text).font;
  }

  // Percent of the width; between two places of the table as far as the distance lies between theirs.
  place(mm) {
    const { table, first, step, infinity } = this;
    if (!Number.isFinite(mm)) return infinity;
    let low = 0, high = table.length - 1;
    if (mm <= table[0]) return first;
    if (!(mm < table[high])) return infinity;
    while (high - low > 1) {
      const middle = (low + high) >> 1;
      if (table[middle] <= mm) low = middle; else high = middle;
    }
    return first + step * (low + (mm - table[low]) / (table[high] - table[low]));
  }

  distanceAt(clientX) {
    const { table, first, step, last, infinity, start, end } = this;
    const box = this.svg.getBoundingClientRect();
    const percent = ((clientX - box.left) / box.width) * 100;
    if (percent > (last + infinity) / 2) return Infinity;
    const at = Math.max((Math.min(percent, last) - first) / step, 0);
    const index = Math.min(Math.floor(at), table.length - 2);
    const mm = table[index] + (at - index) * (table[index + 1] - table[index]);
    return Math.min(Math.max(mm, start), end);
  }

  grab(event, peg) {
    event.preventDefault();
    peg.focus();
    const subject = this.state.subjects[Number(peg.dataset.index)];
    const move = (moved) => {
      subject.mm = rounded(this.distanceAt(moved.clientX));
      this.change({});
    };
    peg.setPointerCapture(event.pointerId);
    peg.addEventListener("pointermove", move);
    const drop = () => peg.removeEventListener("pointermove", move);
    peg.addEventListener("pointerup", drop, { once: true });
    peg.addEventListener("pointercancel", drop, { once: true });
  }

  key(event, peg) {
    const factor = { ArrowRight: 1.02, ArrowUp: 1.02, ArrowLeft: 1 / 1.02, ArrowDown: 1 / 1.02 }[event.key];
    if (!factor) return;
    event.preventDefault();
    event.stopPropagation();
    const subject = this.state.subjects[Number(peg.dataset.index)];
    const from = Number.isFinite(subject.mm) ? subject.mm : this.end;
    subject.mm = Math.max(from * (event.shiftKey ? factor ** 5 : factor), this.start);
    this.change({});
  }

  draw() {
    const { focus, limits, unit } = this.state;
    const { near, far } = limits;
    const places = { near: this.place(near), far: this.place(far), plane: this.place(focus) };
    this.parts.zone.setAttribute("x", `${places.near}%`);
    this.parts.zone.setAttribute("width", `${Math.max(places.far - places.near, 0)}%`);
    for (const [name, place] of [["near-edge", places.near], ["far-edge", places.far], ["plane", places.plane]]) {
      this.parts[name].setAttribute("x1", `${place}%`);
      this.parts[name].setAttribute("x2", `${place}%`);
    }
    const sharp = spanText(near, far, unit);
    this.label("near-at", places.near, `near ${sharp.near}`);
    this.label("far-at", places.far, `far ${sharp.far}`);
    this.lean("near-at", -1, places.near < 24);
    this.lean("far-at", 1, places.far > 80);
    for (const peg of this.pegs) this.drawPeg(peg, limits);
  }

  label(name, place, text) {
    this.parts[name].setAttribute("x", `${place}%`);
    this.parts[name].firstElementChild.textContent = text;
  }

  // A name stands right of its peg; left of it when it is too near for the zone, or where there is no room.
  flips(text, place, tooNear) {
    const { width } = this;
    const length = this.pen.measureText(text.textContent).width + 18;
    const room = { left: (width * place) / 100, right: width * (1 - place / 100) };
    return room.left >= length && (tooNear || room.right < length);
  }

  // A label stands outside the zone, or inside and lower where there is no room for it.
  lean(name, side, inward) {
    const text = this.parts[name].firstElementChild;
    const right = (side > 0) !== inward;
    text.setAttribute("x", right ? 6 : inward ? -8 : -6);
    text.setAttribute("y", inward ? -88 : -110);
    text.setAttribute("text-anchor", right ? "start" : "end");
  }

  drawPeg(peg, limits) {
    const { mm } = this.state.subjects[Number(peg.dataset.index)];
    const { unit } = this.state;
    const place = this.place(mm);
    peg.parentElement.setAttribute("x", `${place}%`);
    const where = placeWords(mm, limits, unit);
    peg.classList.toggle("out", where !== "");
    const text = peg.querySelector("text");
    text.textContent = peg.dataset.name + (where && `, ${where}`);
    const flip = this.flips(text, place, mm < limits.insideNear);
    text.setAttribute("x", flip ? -13 : 13);
    text.setAttribute("text-anchor", flip ? "end" : "start");
    peg.setAttribute("aria-valuenow", Number.isFinite(mm) ? Math.round(mm) : 9999999);
    peg.setAttribute("aria-valuetext", `${distanceText(mm, unit)}, ${where || "inside"}`);
  }
}

// "" when inside the zone, else by how much outside.
export function placeWords(mm, { near, far, insideNear, insideFar }, unit) {
  if (mm < insideNear) return `${roughText(near - mm, unit)} too near`;
  if (mm <= insideFar) return "";
  return Number.isFinite(mm) ? `${roughText(mm - far, unit)} too far` : "too far";
}

// To the nearest centimetre, or decimetre from 3 m: as finely as anyone paces.
const rounded = (mm) => (Number.isFinite(mm) ? Math.round(mm / (mm < 3000 ? 10 : 100)) * (mm < 3000 ? 10 : 100) : mm);
