// What was written down here and has not gone over yet: each entry has a key of its own and is taken over once.
import { Kept } from "./kept.js";

const BATCH = 200;
const AGAIN_MS = 15000;

// Not randomUUID: a page that came over the local network has none.
function newKey() {
  return [...crypto.getRandomValues(new Uint8Array(12))].map((byte) => byte.toString(16).padStart(2, "0")).join("");
}

export function localTime(date = new Date()) {
  const two = (value) => String(value).padStart(2, "0");
  return `${date.getFullYear()}-${two(date.getMonth() + 1)}-${two(date.getDate())}T${two(date.getHours())}:${two(date.getMinutes())}:${two(date.getSeconds())}`;
}

export class Queue {
  // `server` is false in a file of its own, where nothing is sent.
  constructor(server, changed) {
    Object.assign(this, { server, changed, seen: null, sending: false, problem: "" });
    this.store = new Kept("welotrope-field-log");
    this.log = this.store.read({ entries: [], refused: [] });
    this.safe = true;
    if (!server) return;
    window.addEventListener("storage", () => { this.join(); this.changed(); });
    window.addEventListener("online", () => this.send());
    document.addEventListener("visibilitychange", () => document.hidden || this.send());
    setInterval(() => this.waiting.length && this.send(), AGAIN_MS);
    this.send();
  }

  get waiting() {
    return this.log.entries.filter((entry) => !entry.sent);
  }

  get frames() {
    return this.log.entries.filter((entry) => entry.kind === "frame" && !this.undone(entry.key));
  }

  undone(key) {
    return this.log.entries.some((entry) => entry.kind === "undo" && entry.of === key);
  }

  add(entry) {
    const made = { key: newKey(), at: localTime(), ...entry };
    this.log.entries.push(made);
    this.keep();
    this.send();
    return made;
  }

  outcome(key) {
    return this.log.entries.findLast((entry) => entry.kind === "mark" && entry.of === key)?.outcome ?? null;
  }

  keep() {
    this.join();
    this.safe = this.store.write(this.log);
    this.changed();
  }

  // What another tab of this page has written down is kept with it.
  join() {
    const mine = new Map(this.log.entries.map((entry) => [entry.key, entry]));
    for (const entry of this.store.read({ entries: [] }).entries) {
      if (!mine.has(entry.key)) this.log.entries.push(entry);
      else if (entry.sent) mine.get(entry.key).sent = true;
    }
  }

  // Sends what waits, oldest first; what the server has it need not be sent again.
  async send() {
    if (!this.server || this.sending) return;
    this.sending = true;
    try {
      let batch = this.waiting.slice(0, BATCH);
      do {
        const answer = await fetch("/field/queue", {
          method: "POST", headers: { "content-type": "application/json" },
          body: JSON.stringify({ now: localTime(), entries: batch.map(({ sent, ...entry }) => entry) }),
        });
        if (!answer.ok) throw new Error(answer.status === 401 ? "pair this device again" : `the server said ${answer.status}`);
        const progressed = this.settle(await answer.json());
        batch = progressed ? this.waiting.slice(0, BATCH) : [];
      } while (batch.length);
      Object.assign(this, { seen: true, problem: "" });
    } catch (error) {
      Object.assign(this, { seen: false, problem: error instanceof TypeError ? "" : error.message });
    }
    this.sending = false;
    this.keep();
  }

  settle(answer) {
    let progressed = false;
    for (const { key, took, sentence } of answer.results) {
      const entry = this.log.entries.find((one) => one.key === key);
      if (!entry || took === "waiting") continue;
      progressed = true;
      entry.sent = true;
      if (sentence) this.log.refused.push({ key, sentence, took });
    }
    if (answer.clock) this.log.clock = answer.clock;
    return progressed;
  }

  // Lets go of what went over on other days.
  tidy() {
    const today = localTime().slice(0, 10);
    this.log.entries = this.log.entries.filter((entry) => !entry.sent || entry.at.startsWith(today));
    this.store.write(this.log);
  }

  // Everything that has not gone over, as the file that can be carried to the server.
  asFile() {
    const entries = this.waiting.map(({ sent, ...entry }) => entry);
    return JSON.stringify({ format: "welotrope-field-log", version: 1, made: localTime(), entries });
  }
}
