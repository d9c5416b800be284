// Keeps the address, the rooms' links and hidden fields at the state shown, and refreshes what the server works out.
import { AIM, HAND } from "./carry.js";

const REST_MS = 200;

export class UrlSync {
  constructor(state) {
    this.state = state;
    this.timer = 0;
  }

  query() {
    const { state } = this;
    const mm = state.focus;
    const pairs = [["at", Number.isFinite(mm) ? `${mm.toFixed(1)}mm` : "inf"], ["stop", String(state.stop)]];
    for (const subject of state.subjects) {
      pairs.push(["subject", `${subject.name}@${Number.isFinite(subject.mm) ? subject.mm.toFixed(1) : "inf"}`]);
    }
    for (const pair of new URLSearchParams(location.search)) if ([...AIM, ...HAND].includes(pair[0])) pairs.push(pair);
    return new URLSearchParams(pairs).toString();
  }

  schedule() {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.sync(), REST_MS);
  }

  stop() {
    clearTimeout(this.timer);
  }

  sync() {
    const query = this.query();
    history.replaceState(null, "", `${location.pathname}?${query}`);
    for (const link of document.querySelectorAll("[data-room], [data-with-state]")) {
      link.href = `${new URL(link.href).pathname}?${query}`;
    }
    const params = new URLSearchParams(query);
    for (const field of document.querySelectorAll("[data-state-field]")) field.value = params.get(field.dataset.stateField);
    const here = `${location.pathname}?${query}`;
    for (const field of document.querySelectorAll('header input[name="back"]')) field.value = here;
    const change = document.querySelector('header a[href^="/setups"]');
    if (change) change.href = `/setups?back=${encodeURIComponent(here)}`;
    const aid = document.getElementById("finest-aid");
    if (aid && window.htmx) window.htmx.ajax("GET", `/scale/aid?${query}`, { target: aid, swap: "innerHTML" });
  }
}
