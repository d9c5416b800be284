// The ring and the ground strip as one: one state, drawn in the same frame it changes.
import { GroundStrip } from "../ground/strip.js";
import { Readout } from "./readout.js";
import { RingStrip } from "./strip.js";
import { RingTable } from "./table.js";
import { UrlSync } from "../../shell/script/url_sync.js";

let leaving = new AbortController(); // of the page part drawn before

export function startInstruments() {
  leaving.abort();
  leaving = new AbortController();
  const { signal } = leaving;
  const data = JSON.parse(document.getElementById("ring-data").textContent);
  const ringElement = document.getElementById("ring");
  const state = {
    table: new RingTable(data),
    unit: document.documentElement.dataset.unit,
    angle: Number(ringElement.dataset.angle),
    stopIndex: data.stops.indexOf(Number(document.getElementById("ring-data").dataset.stop)),
    subjects: JSON.parse(document.getElementById("subject-data").textContent).map(([name, mm]) => ({
      name,
      mm: mm === null ? Infinity : mm,
    })),
    get stop() { return this.table.stops[this.stopIndex]; },
    get focus() { return this.table.focus(this.angle, this.stopIndex); },
    get window() { return this.table.window(this.angle, this.stopIndex); },
    get limits() { return this.table.limits(this.angle, this.stopIndex); },
  };
  const sync = new UrlSync(state);
  signal.addEventListener("abort", () => sync.stop());
  const views = [];
  const change = (patch) => {
    Object.assign(state, patch);
    state.angle = state.table.clamp(state.angle);
    for (const view of views) view.draw();
    sync.schedule();
  };
  views.push(new RingStrip(ringElement, state, change), new GroundStrip(document.getElementById("ground"), state, change), new Readout(state, change));
  const [ring, ground] = views;
  ground.draw(); // names find their room once the width is known
  window.addEventListener("resize", () => {
    ring.measure();
    ground.measure();
    ground.draw();
  }, { signal });
  window.addEventListener("welotrope:stop", (event) => {
    const index = Math.min(Math.max(state.stopIndex + event.detail, 0), state.table.stops.length - 1);
    change({ stopIndex: index });
  }, { signal });
  window.addEventListener("welotrope:turn", (event) => change({ angle: event.detail(state) }), { signal });
  document.documentElement.dataset.instruments = "ready";
}
