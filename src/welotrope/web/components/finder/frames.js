// Fetches frames of a round, a few at a time, the most wanted first; keeps them, and finds those on either side of a place.
const LANES = 2;
const MOST_FRAMES = 420;
const MOST_PICTURES = 40;
const TRIES = 4; // when nothing answers, each after a longer pause
const PAUSE_MS = 400;
const UNREACHED = "Welotrope does not answer. The round is kept for two hours: reload this page when it is there again.";

export class Frames {
  constructor(base, wanted, arrived) {
    Object.assign(this, { base, wanted, arrived, blobs: new Map(), pictures: new Map(), busy: new Set(), refused: new Set(), failures: 0, seconds: 0.05, over: false, pausing: false });
    this.leaving = new AbortController();
  }

  // Starts what is wanted and not yet there; call it whenever the wants change.
  pump() {
    if (this.over || this.pausing || this.leaving.signal.aborted) return;
    for (const key of this.wanted()) {
      if (this.busy.size >= LANES) return;
      if (!this.blobs.has(key) && !this.busy.has(key) && !this.refused.has(key)) this.load(key);
    }
  }

  async load(key) {
    this.busy.add(key);
    const asked = performance.now();
    try {
      const response = await fetch(`${this.base}/frame?${key}`, { signal: this.leaving.signal });
      if (response.ok) this.keep(key, await response.blob(), (performance.now() - asked) / 1000);
      else this.refuse(key, response.status, await response.text());
      this.failures = 0;
    } catch {
      this.pause();
    } finally {
      this.busy.delete(key);
    }
    if (this.blobs.has(key)) this.arrived(key);
    this.pump();
  }

  // A round that is over is asked for nothing more; a view that cannot be had, not again.
  refuse(key, status, problem) {
    this.refused.add(key);
    this.over ||= status === 404;
    this.arrived(key, problem);
  }

  pause() {
    if (this.pausing || this.leaving.signal.aborted) return;
    this.failures += 1;
    if (this.failures > TRIES) {
      this.over = true;
      this.arrived(null, UNREACHED);
      return;
    }
    this.pausing = true;
    setTimeout(() => {
      this.pausing = false;
      this.pump();
    }, PAUSE_MS * 2 ** this.failures);
  }

  // How many frames come a second.
  pace() {
    return LANES / this.seconds;
  }

  keep(key, blob, seconds) {
    this.seconds = 0.8 * this.seconds + 0.2 * seconds;
    this.blobs.set(key, blob);
    if (this.blobs.size > MOST_FRAMES) this.blobs.delete(this.blobs.keys().next().value);
  }

  // Waits until nothing is being fetched; what is wanted by then must be nothing.
  async quiet() {
    while (this.busy.size) await new Promise((again) => setTimeout(again, 5));
  }

  // One picture by itself, not kept: for a scene that moves.
  async once(key) {
    const response = await fetch(`${this.base}/frame?${key}`, { signal: this.leaving.signal });
    if (!response.ok) throw new Error(await response.text());
    return createImageBitmap(await response.blob());
  }

  // The frames of a view nearest to a place along the ring, on either side of it: their places and keys, or null.
  beside(view, place, there = this.blobs) {
    let [below, above] = [null, null];
    for (const key of there.keys()) {
      if (!key.endsWith(view)) continue;
      const at = Number(key.slice(2, key.indexOf("&")));
      if (at <= place && !(below?.at >= at)) below = { at, key };
      if (at >= place && !(above?.at <= at)) above = { at, key };
    }
    return { below, above };
  }

  // A frame unpacked; the one looked at longest ago makes room.
  async picture(key) {
    const made = this.pictures.get(key) ?? (await createImageBitmap(this.blobs.get(key)));
    this.pictures.delete(key);
    this.pictures.set(key, made);
    if (this.pictures.size > MOST_PICTURES) {
      const [old, gone] = this.pictures.entries().next().value;
      this.pictures.delete(old);
      gone.close();
    }
    return made;
  }

  leave() {
    this.leaving.abort();
    for (const picture of this.pictures.values()) picture.close();
    this.pictures.clear();
    this.blobs.clear();
  }
}
