// The exposure table: the light one sees, and the shutter at the stop in hand.
import { stopText } from "../../../components/text/distance_text.js";
import { h } from "./dom.js";

export function lightView(state, act) {
  const { lights } = state.book;
  const { texts, rows } = state.hand.lights;
  const at = lights.isos.indexOf(state.iso) < 0 ? lights.isos.indexOf(400) : lights.isos.indexOf(state.iso);
  const stops = state.table.stops;
  const place = Math.max(state.stopIndex, 0);
  const other = (by) => act(() => { state.stop = stops[Math.min(Math.max(state.stopIndex + by, 0), stops.length - 1)]; state.keep(); });
  return [
    h("h1", { class: "f-name" }, `Shutter at ${stopText(state.stop)}, ISO ${lights.isos[at]}`),
    h("div", { class: "f-row" },
      h("button", { type: "button", class: "f-btn", "aria-label": "Wider stop", onclick: () => other(-1) }, "‹"),
      h("b", { class: "f-big" }, stopText(state.stop)),
      h("button", { type: "button", class: "f-btn", "aria-label": "Smaller stop", onclick: () => other(1) }, "›"),
      h("label", { class: "f-iso" }, "ISO ", h("select", { "aria-label": "ISO", onchange: (event) => act(() => { state.iso = Number(event.target.value); state.keep(); }) },
        lights.isos.map((iso) => h("option", { value: iso, selected: iso === lights.isos[at] }, String(iso)))))),
    h("table", { class: "f-lights" }, h("tbody", {}, rows.map((row, index) =>
      h("tr", {}, h("th", { scope: "row" }, lights.names[index]), h("td", {}, texts[row[at][place]]))))),
    h("p", {}, state.hand.shutter),
    state.hand.film ? h("p", {}, "Film loses speed in long times: add what its data sheet says.") : null,
  ];
}
