// The ring to turn with a thumb: both scales, the sharp window, the stops.
import { distanceText, otherUnit, stopText, turnText } from "../../../components/text/distance_text.js";
import { spanText } from "../../../components/text/span_text.js";
import { turned } from "../../../components/ring/strip.js";
import { h, s } from "./dom.js";

const WIDTH = 360;
const HEIGHT = 150;
const SHOWN_DEG = 60;

export function ringView(state, act) {
  const live = h("div", { "aria-live": "off" });
  const svg = strip(state, () => { draw(); }, () => act(() => state.keep()));
  const stops = h("div", { class: "f-stops", role: "group", "aria-label": "Stop" }, state.table.stops.map((stop) =>
    h("button", { type: "button", class: "f-btn", "aria-pressed": String(stop === state.stop),
      onclick: () => act(() => { state.stop = stop; state.keep(); }) }, stopText(stop).slice(2))));
  const draw = () => {
    svg.redraw();
    live.replaceChildren(...readout(state));
  };
  draw();
  return [live, svg.element, stops,
    state.onSetting ? null : h("button", { type: "button", class: "f-btn f-wide", onclick: () => act(() => { state.take(state.index); state.keep(); }) },
      h("span", {}, "back to ", h("b", {}, state.setting.name)))];
}

function readout(state) {
  const { index, near, far } = state.reading;
  const lead = spanText(near, far, state.unit);
  const second = spanText(near, far, otherUnit(state.unit));
  return [
    h("h1", { class: "f-huge" }, state.table.indicator ? "Indicator " : state.table.turnIn ? "Set " : "Index ",
      h("b", { class: "brass" }, state.table.indicator ? turnText(state.angle, state.table.turnIn) : distanceText(index, state.unit)), " ", h("b", {}, stopText(state.stop))),
    h("p", { class: "f-range" }, `${lead.near} – ${lead.far}`),
    h("p", { class: "second" }, `${second.near} – ${second.far}`),
  ];
}

// The strip as it stands, only to look at.
export function stripFigure(state) {
  const { element, redraw } = strip(state, () => {}, () => {});
  for (const name of ["role", "tabindex"]) element.removeAttribute(name);
  element.setAttribute("aria-hidden", "true");
  element.classList.add("f-still");
  redraw();
  return element;
}

function strip(state, drawn, done) {
  const { hand, table } = state;
  const scale = hand.direction * (WIDTH / Math.min(SHOWN_DEG, table.throw));
  const window_ = s("rect", { y: 0, height: 26, class: "window" });
  const edges = [s("line", { y1: 0, y2: HEIGHT, class: "window-edge" }), s("line", { y1: 0, y2: HEIGHT, class: "window-edge" })];
  const moving = s("g", {}, stopper(0, -scale), stopper(table.throw * scale, scale), rows(hand, state.unit, scale));
  const element = s("svg", {
    viewBox: `${-WIDTH / 2} 0 ${WIDTH} ${HEIGHT}`, class: "f-strip", tabindex: 0, role: "slider", "aria-label": "Focus ring",
    "aria-valuemin": 0, "aria-valuemax": table.throw.toFixed(0),
  }, s("rect", { x: -WIDTH / 2, y: 0, width: WIDTH, height: HEIGHT, class: "f-ring" }), window_, moving, edges,
  s("path", { d: `M -9 0 L 9 0 L 0 14 Z M -1 14 L 1 14 L 1 ${HEIGHT} L -1 ${HEIGHT} Z`, class: "f-index" }));

  const redraw = () => {
    moving.setAttribute("transform", `translate(${-state.angle * scale} 0)`);
    const ends = table.window(state.angle, state.stopIndex);
    const places = [(ends.near - state.angle) * scale, (ends.far - state.angle) * scale].sort((a, b) => a - b);
    window_.setAttribute("x", places[0]);
    window_.setAttribute("width", places[1] - places[0]);
    edges.forEach((edge, index) => { edge.setAttribute("x1", places[index]); edge.setAttribute("x2", places[index]); });
    element.setAttribute("aria-valuenow", state.angle.toFixed(1));
    element.setAttribute("aria-valuetext", distanceText(state.reading.focus, state.unit));
  };
  element.addEventListener("pointerdown", (event) => {
    const from = { x: event.clientX, angle: state.angle };
    const perPx = WIDTH / element.getBoundingClientRect().width / scale;
    element.setPointerCapture(event.pointerId);
    const move = (moved) => { state.turn(from.angle - (moved.clientX - from.x) * perPx); drawn(); };
    element.addEventListener("pointermove", move);
    const end = () => { element.removeEventListener("pointermove", move); done(); };
    element.addEventListener("pointerup", end, { once: true });
    element.addEventListener("pointercancel", end, { once: true });
  });
  element.addEventListener("keydown", (event) => {
    const angle = turned(event, state, hand.direction);
    if (angle === null) return;
    event.preventDefault();
    state.turn(angle);
    drawn();
  });
  element.addEventListener("blur", () => state.store && state.keep());
  return { element, redraw };
}

function rows(hand, unit, scale) {
  return [[unit, 62, "f-lead"], [otherUnit(unit), 112, "f-second"]].map(([name, y, look]) =>
    s("g", { class: look }, hand.marks[name].map(([angle, text]) => s("g", { transform: `translate(${angle * scale} 0)` },
      s("line", { y1: y === 62 ? 26 : 124, y2: y === 62 ? 38 : 136 }), text ? s("text", { y, "text-anchor": "middle" }, text) : null))));
}

function stopper(x, scale) {
  return s("rect", { x: scale > 0 ? x + 14 : x - 22, y: 0, width: 8, height: HEIGHT, class: "f-end" });
}
