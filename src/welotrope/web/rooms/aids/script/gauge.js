// The needle beside the best of the sweep, and the sharpness over the sweep.
const NS = "http://www.w3.org/2000/svg";
const [LEFT, RIGHT, ALONG] = [14, 286, 26];
const at = (share) => LEFT + share * (RIGHT - LEFT);

function put(parent, name, attributes, text = "") {
  const made = document.createElementNS(NS, name);
  for (const [key, value] of Object.entries(attributes)) made.setAttribute(key, value);
  made.textContent = text;
  parent.append(made);
  return made;
}

export class Gauge {
  constructor(needle, curve) {
    this.curve = curve;
    const line = (from, to, kind) => put(needle, "path", { class: kind, d: `M${at(from)} ${ALONG}H${at(to)}` });
    line(0, 1, "track");
    this.range = line(0, 0, "range");
    put(needle, "path", { class: "half", d: `M${at(0.5)} ${ALONG - 9}v18` });
    this.mark = put(needle, "path", { class: "mark", d: "" });
    this.now = put(needle, "path", { class: "now", d: "" });
    put(needle, "text", { x: at(0), y: 58 }, "blurred");
    this.half = put(needle, "text", { x: at(0.5), y: 58, "text-anchor": "middle" });
    put(needle, "text", { x: at(1), y: 58, "text-anchor": "end" }, "best");
  }

  // What the middle of the needle stands for.
  name(half) {
    this.half.textContent = half;
  }

  show(answer) {
    const known = answer.best_frame !== null && !answer.change;
    this.now.setAttribute("d", known ? `M${at(answer.share)} ${ALONG + 2}l-8 -17h16z` : "");
    this.range.setAttribute("d", known ? `M${at(answer.low)} ${ALONG}H${at(answer.high)}` : "");
    this.mark.setAttribute("d", answer.mark ? `M${at(answer.mark)} ${ALONG - 11}v22` : "");
    this.draw(answer);
  }

  draw({ curve, best_at: best, best_at_low: low, best_at_high: high }) {
    this.curve.replaceChildren();
    if (curve.length < 2) return;
    const places = curve.map(([place]) => place);
    const [first, last] = [Math.min(...places), Math.max(...places)];
    const across = (place) => LEFT + ((place - first) / (last - first || 1)) * (RIGHT - LEFT);
    const up = (share) => 78 - 66 * share;
    const within = (place) => Math.min(Math.max(across(place), LEFT), RIGHT);
    if (best !== null) put(this.curve, "rect", { class: "best", x: within(low), y: 8, width: Math.max(within(high) - within(low), 2), height: 74 });
    put(this.curve, "path", { d: curve.map(([place, share], index) => `${index ? "L" : "M"}${across(place).toFixed(1)} ${up(share).toFixed(1)}`).join("") });
    const [place, share] = curve.at(-1);
    put(this.curve, "circle", { class: "now", cx: across(place), cy: up(share), r: 4 });
  }
}
