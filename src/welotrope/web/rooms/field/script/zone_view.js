// The zone in hand, as large as it goes: where to put the index, the stop, what is sharp; and the next one.
import { distanceText, stopText } from "../../../components/text/distance_text.js";
import { h } from "./dom.js";
import { stripFigure } from "./ring_view.js";
import { distanceOf, markWords, ownWords, range, rangeInBoth } from "./words.js";

export function zoneView(state, act) {
  const { setting, hand, unit } = state;
  const [lead, second] = rangeInBoth(setting.near, setting.far, unit);
  return [
    h("h1", { class: "f-name" }, setting.name),
    h("p", { class: "f-huge" }, setting.indicator ? `Indicator ${setting.indicator}` : h("span", {}, "Index ",
      h("b", { class: "brass" }, distanceText(distanceOf(setting.engraved), unit))), " ", h("b", {}, stopText(setting.stop))),
    setting.indicator || !markWords(setting, unit) ? null : h("p", { class: "f-mark" }, markWords(setting, unit)),
    h("p", { class: "f-range" }, lead),
    h("p", { class: "second" }, second, ownWords(setting.words) ? h("span", { class: "f-own" }, ownWords(setting.words)) : null),
    stripFigure(state),
    h("details", { class: "f-more" }, h("summary", {}, "All settings"), h("ul", { class: "f-list" }, hand.settings.map((one, index) =>
      h("li", {}, h("button", { type: "button", class: "f-btn f-wide", "aria-current": index === state.index ? "true" : null,
        onclick: () => act(() => { state.take(index); state.keep(); }) },
      h("span", {}, h("b", {}, one.name), ` ${stopText(one.stop)}, ${range(one.near, one.far, unit)}`)))))),
    card(state),
  ];
}

// Under the thumb: the zone before, and the next one.
export function nextZone(state, act) {
  const next = state.hand.settings[(state.index + 1) % state.hand.settings.length];
  return h("div", { class: "f-row" },
    h("button", { type: "button", class: "f-btn", onclick: () => act(() => state.step(-1)), "aria-label": "Zone before" }, "‹"),
    h("button", { type: "button", class: "f-btn f-wide", id: "f-next", onclick: () => act(() => state.step(1)) },
      h("span", {}, "next: ", h("b", {}, next.name), " ", stopText(next.stop))));
}

// Two zones at the stop chosen: the card in the pocket.
function card(state) {
  const { hand, unit, table } = state;
  let at = Math.max(state.stopIndex, 0);
  const body = h("div", {});
  const draw = () => {
    const zones = hand.zones[at];
    body.replaceChildren(
      h("div", { class: "f-row" },
        h("button", { type: "button", class: "f-btn", "aria-label": "Wider stop", onclick: () => { at = Math.max(at - 1, 0); draw(); } }, "‹"),
        h("b", { class: "f-big" }, stopText(table.stops[at])),
        h("button", { type: "button", class: "f-btn", "aria-label": "Smaller stop",
          onclick: () => { at = Math.min(at + 1, hand.zones.length - 1); draw(); } }, "›")),
      ...zones.map((zone) => h("div", { class: "f-card" }, h("b", {}, zone.name),
        h("span", {}, zone.indicator ? `indicator ${zone.indicator}` : `index ${distanceText(distanceOf(zone.engraved), unit)}`),
        h("span", { class: "f-big" }, range(zone.near, zone.far, unit)),
        ownWords(zone.words) ? h("span", { class: "f-own" }, ownWords(zone.words)) : null)),
      zones.length < 2 ? h("p", {}, "One zone reaches from the horizon to closest focus.") : "",
    );
  };
  draw();
  return h("details", { class: "f-more" }, h("summary", {}, "Two-zone card"), body);
}
