// What was logged here: what it showed, what waits, what could not be taken, and the way to carry it home.
import { distanceText, stopText } from "../../../components/text/distance_text.js";
import { h } from "./dom.js";
import { distanceOf } from "./words.js";

const OUTCOMES = [["hit", "hit"], ["in front", "front"], ["behind", "behind"], ["moved", "moved"],
  ["shaken", "shaken"], ["soft lens", "soft"], ["unsure", "?"]];

export function logView(state, act, queue) {
  const frames = [...queue.frames].reverse();
  const waiting = queue.waiting.length;
  return [
    h("h1", { class: "f-name" }, frames.length === 1 ? "1 frame" : `${frames.length} frames`,
      state.outing ? h("span", {}, `, ${state.outing.name}`) : null),
    frames.length ? null : h("p", {}, "Nothing is logged here yet. Press “Log it” under Zone or Ring as you take a frame; what it showed can be marked at once or at home."),
    h("p", {}, waiting ? `${waiting} ${waiting === 1 ? "entry waits" : "entries wait"} on this device.` : queue.server && queue.log.entries.length ? "All of it has gone over." : ""),
    queue.server && !window.isSecureContext ? h("p", {}, "Keep this tab open: over the network a closed page needs the server again. The pocket file does not.") : null,
    queue.safe ? null : h("p", { class: "warn" }, "This browser keeps nothing: save the log before you close the page."),
    queue.log.clock ? h("p", { class: "warn" }, queue.log.clock) : null,
    queue.log.refused.length ? h("details", { class: "f-more", open: true }, h("summary", {}, "What was put right or could not be taken"),
      h("ul", { class: "f-list" }, queue.log.refused.map((one) => h("li", {}, one.sentence))),
      h("button", { type: "button", class: "f-btn", onclick: () => act(() => { queue.log.refused = []; queue.keep(); }) }, "Read")) : null,
    h("ul", { class: "f-list" }, frames.map((frame) => row(frame, state, act, queue))),
    waiting || !queue.server ? carry(queue) : null,
    queue.server ? h("a", { class: "f-quiet", href: "/field/pocket" }, "Pocket file, and its log on the way back") : null,
  ];
}

function row(frame, state, act, queue) {
  const shown = queue.outcome(frame.key);
  const mark = (outcome) => act(() => queue.add({ kind: "mark", of: frame.key, outcome: outcome === shown ? null : outcome }));
  return h("li", { class: "f-frame", "data-key": frame.key },
    h("p", {}, h("b", {}, frame.at.slice(11, 16)), ` ${distanceText(distanceOf(frame.distance_mm), state.unit)} ${stopText(frame.stop)}`,
      frame.preset ? ` ${frame.preset}` : "", h("span", { class: "f-why" }, `${frame.lens}${frame.sent ? "" : ", waits here"}`)),
    h("div", { class: "f-marks", role: "group", "aria-label": "What it showed" }, OUTCOMES.map(([value, text]) =>
      h("button", { type: "button", class: "f-btn", "aria-pressed": String(value === shown), "aria-label": value, onclick: () => mark(value) }, text)),
    h("button", { type: "button", class: "f-btn", "aria-label": "Take it back", onclick: () => act(() => queue.add({ kind: "undo", of: frame.key })) }, "×")));
}

function carry(queue) {
  const text = queue.asFile();
  const area = h("textarea", { readonly: true, rows: 3, "aria-label": "The log as text" });
  area.value = text;
  const name = `welotrope-field-${new Date().toISOString().slice(0, 10)}.json`;
  const link = h("a", { class: "f-btn", download: name, href: URL.createObjectURL(new Blob([text], { type: "application/json" })) }, "Save the log");
  return h("details", { class: "f-more", open: !queue.server }, h("summary", {}, "Carry the log home"),
    h("p", {}, "As a file, or as text to paste at Field, Pocket file. Taken over twice, it counts once."), link,
    h("button", { type: "button", class: "f-btn", onclick: () => { area.select(); navigator.clipboard?.writeText(text); } }, "Copy the text"), area);
}
