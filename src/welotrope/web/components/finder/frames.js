// Fetches frames of a round, a few at a time, the most wanted first; keeps them, and finds the nearest one there is.
const LANES = 2;
const MOST_BLOBS = 420;
const MOST_PICTURES = 40;
const TRIES = 4; // when nothing answers, each after a longer pause
const PAUSE_MS = 400;
const UNREACHED = "Welotrope does not answer. The round is kept for two hours: reload this page when it is there again.";

export class Frames {
  constructor(base, wanted, arrived) {
    Object.assign(this, { base, wanted, arrived, blobs: new Map(), pictures: new Map(), busy: new Set(), refused: new Set(), failures: 0, over: false, pausing: false });
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
    try {
      const response = await fetch(`${this.base}/frame?${key}`, { signal: this.leaving.signal });
      if (response.ok) this.keep(key, await response.blob());
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

  keep(key, blob) {
    this.blobs.set(key, blob);
    if (this.blobs.size > MOST_BLOBS) this.blobs.delete(this.blobs.keys().next().value);
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

  // The key of the frame nearest to an index in a view, or null.
  nearest(view, index) {
    let best = null;
    let distance = Infinity;
    for (const key of this.blobs.keys()) {
      if (!key.endsWith(view)) continue;
      const off = Math.abs(Number(key.slice(2, key.indexOf("&"))) - index);
      if (off < distance) [best, distance] = [key, off];
    }
    return best;
  }

  async picture(key) {
    if (!this.pictures.has(key)) {
      const made = await createImageBitmap(this.blobs.get(key));
      this.pictures.set(key, made);
      if (this.pictures.size > MOST_PICTURES) {
        const [old, gone] = this.pictures.entries().next().value;
        this.pictures.delete(old);
        gone.close();
      }
    }
    return this.pictures.get(key);
  }

  leave() {
    this.leaving.abort();
    for (const picture of this.pictures.values()) picture.close();
    this.pictures.clear();
    this.blobs.clear();
  }
}
