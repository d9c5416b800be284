// The field page: everything it shows comes from its book; what is written down waits in its queue.
import { FieldState } from "./state.js";
import { Queue } from "./queue.js";
import { h } from "./dom.js";
import { stay } from "./stay.js";
import { nextZone, zoneView } from "./zone_view.js";
import { ringView } from "./ring_view.js";
import { lightView } from "./light_view.js";
import { sheetView } from "./sheet_view.js";
import { logView } from "./log_view.js";

const TABS = [["zone", "Zone", zoneView], ["ring", "Ring", ringView], ["light", "Light", lightView], ["sheet", "Sheet", sheetView], ["log", "Log", logView]];
const SAID_MS = 6000;
const byId = (id) => document.getElementById(id);

function start() {
  const book = JSON.parse(byId("field-book").textContent);
  const server = !document.documentElement.dataset.pocket;
  let state = null;
  const act = (what) => { what(); draw(state, queue, act); };
  // What went over shows at once in the log, and in the bar elsewhere.
  const queue = new Queue(server, () => state && (state.tab === "log" ? draw(state, queue, act) : drawBar(state, queue)));
  if (!book.hands.length) return byId("f-main").append(h("p", {}, "No set-up yet. Enter one in Kit first."));
  state = new FieldState(book, () => {});
  queue.tidy();
  byId("f-hand").append(...book.hands.map((hand) => h("option", { value: hand.id, selected: hand === state.hand }, handName(hand))));
  if (book.left_out) byId("f-hand").append(h("option", { disabled: true }, `${book.left_out} more find no room here`));
  byId("f-hand").addEventListener("change", (event) => act(() => state.choose(event.target.value)));
  byId("f-unit").addEventListener("click", () => act(() => { state.unit = state.unit === "ft" ? "m" : "ft"; state.keep(); remember("unit", state.unit, server); }));
  byId("f-look").addEventListener("click", () => act(() => { state.nextLook(); remember("look", state.look, server); }));
  byId("f-tabs").append(...TABS.map(([key, name]) => h("button", { type: "button", "data-tab": key,
    onclick: () => { act(() => { state.tab = key; state.keep(); }); window.scrollTo(0, 0); } }, name)));
  draw(state, queue, act);
  document.documentElement.dataset.ready = "yes";
  performance.mark("field-ready");
  if (server) stay();
}

const handName = (hand) => `${hand.lens}${hand.zoom === null ? "" : ` at ${hand.zoom} mm`} on ${hand.body}`;

// The rooms have the same look and unit.
function remember(name, value, server) {
  if (server) document.cookie = `${name}=${value};path=/;max-age=31536000;samesite=strict`;
}

function draw(state, queue, act) {
  drawBar(state, queue);
  const [, , view] = TABS.find(([key]) => key === state.tab) ?? TABS[0];
  const main = byId("f-main");
  const open = [...main.querySelectorAll("details")].map((one) => one.open);
  const same = main.dataset.tab === state.tab;
  main.dataset.tab = state.tab;
  main.replaceChildren(...view(state, act, queue).filter(Boolean), ...logButton(state, queue, act));
  if (same) main.querySelectorAll("details").forEach((one, index) => { if (open[index]) one.open = true; });
}

function drawBar(state, queue) {
  document.documentElement.dataset.look = state.look;
  byId("f-unit").textContent = state.unit === "ft" ? "ft / m" : "m / ft";
  byId("f-look").textContent = state.look[0].toUpperCase() + state.look.slice(1);
  const waiting = queue.waiting.length;
  byId("f-state").textContent = [
    waiting ? `${waiting} wait${waiting === 1 ? "s" : ""}` : "",
    queue.server && queue.seen === false ? queue.problem || "no server in reach" : "",
  ].filter(Boolean).join(", ");
  byId("f-stop-line").hidden = !state.hand.fit;
  byId("f-stop-line").textContent = state.hand.fit ? `Do not mount this set-up. ${state.hand.fit}` : "";
  for (const tab of byId("f-tabs").children) {
    if (tab.dataset.tab === state.tab) tab.setAttribute("aria-current", "page");
    else tab.removeAttribute("aria-current");
  }
}

function logButton(state, queue, act) {
  if (state.tab !== "zone" && state.tab !== "ring") return [];
  return [h("div", { class: "f-log" }, state.tab === "zone" ? nextZone(state, act) : null, h("button", { type: "button", class: "f-btn f-main", id: "f-log", onclick: () => log(state, queue, act) }, "Log it"))];
}

function log(state, queue, act) {
  const { hand, angle, stop } = state;
  const { focus, near, far } = state.reading;
  const finite = (mm) => (Number.isFinite(mm) ? Math.round(mm * 10) / 10 : null);
  const made = queue.add({
    kind: "frame", setup: hand.setup, zoom: hand.zoom, outing: state.outing?.id ?? null, body: hand.body, lens: hand.lens,
    focal_mm: hand.focal_mm, blur_mm: hand.blur_mm, stop, distance_mm: finite(focus), angle_deg: Math.round(angle * 1000) / 1000,
    near_mm: finite(near), far_mm: finite(far), preset: state.onSetting && state.setting.preset ? state.setting.name : "",
  });
  say(`Logged ${made.at.slice(11, 16)}`, () => act(() => queue.add({ kind: "undo", of: made.key })));
}

let saidTimer = 0;
function say(text, undo) {
  const line = byId("f-said");
  clearTimeout(saidTimer);
  line.hidden = false;
  line.replaceChildren(h("span", {}, text), h("button", { type: "button", class: "f-btn", id: "f-undo", onclick: () => { line.hidden = true; undo(); } }, "Undo"));
  saidTimer = setTimeout(() => { line.hidden = true; }, SAID_MS);
}

start();
