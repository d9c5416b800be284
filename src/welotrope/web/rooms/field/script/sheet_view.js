// What to tell the camera, ticked off; the steps of a night; the cautions.
import { h } from "./dom.js";

export function sheetView(state, act, queue) {
  const { hand, book } = state;
  const outing = state.outing?.id ?? 0;
  const latest = new Map(hand.ticked.map((line) => [line, true]));
  for (const entry of queue.log.entries) {
    if (entry.kind === "tick" && entry.setup === hand.setup && entry.outing === outing) latest.set(entry.line, entry.done);
  }
  const [school, lines] = hand.sheets.find(([name]) => name === state.school) ?? hand.sheets[0];
  const done = lines.filter(([id]) => latest.get(id)).length;
  const tick = (line, ticked) => act(() => queue.add({ kind: "tick", setup: hand.setup, outing, line, done: ticked }));
  return [
    h("h1", { class: "f-name" }, `Set-up sheet: ${done} of ${lines.length}`),
    h("div", { class: "f-row" }, hand.sheets.map(([name]) => h("button", {
      type: "button", class: "f-btn f-wide", "aria-pressed": String(name === school), onclick: () => act(() => { state.school = name; state.keep(); }),
    }, name))),
    h("ul", { class: "f-list" }, lines.map(([id, text, reason]) => h("li", {}, h("label", { class: "f-check" },
      h("input", { type: "checkbox", checked: Boolean(latest.get(id)), onchange: (event) => tick(id, event.target.checked) }),
      h("span", {}, h("b", {}, text), reason ? h("span", { class: "f-why" }, reason) : null))))),
    hand.night ? h("details", { class: "f-more", open: state.look === "night" }, h("summary", {}, "A night, step by step"),
      hand.night.reached ? null : h("p", {}, h("b", {}, "This ring does not reach the stars.")),
      h("ol", { class: "f-steps" }, hand.night.steps.map(([what, why]) => h("li", {}, h("b", {}, what), ` ${why}`)))) : null,
    h("ul", { class: "f-cautions" }, book.cautions.map((text) => h("li", {}, text))),
  ];
}
