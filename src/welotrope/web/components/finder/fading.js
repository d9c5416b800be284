// What is drawn at each refresh of the display: the frame on one side of the ring, and over it, as faint as it is far, the other.
const AT_ONCE = 4; // refreshes of the display: what is passed in so short a time may be shown as one
const REFRESHES = 60; // a second

export class Fading {
  constructor(frames, places, screen, drawn) {
    Object.assign(this, { frames, places, screen, drawn, shown: "", before: null, asked: false, unpacking: new Set() });
  }

  // The ring turned, or a frame came: what there is for it is drawn with the next refresh.
  wake(value) {
    this.value = value;
    if (this.asked) return;
    this.asked = true;
    requestAnimationFrame(() => {
      this.asked = false;
      this.draw();
    });
  }

  // Forgets what is shown: another view is looked at, whose frames stand at other places.
  renew() {
    this.shown = "";
    this.before = null;
  }

  draw() {
    const { frames, places } = this;
    if (frames.leaving.signal.aborted) return;
    const [place, view] = [places.place(this.value), places.view()];
    const passed = Math.abs(place - (this.before ?? place));
    this.before = place;
    this.unpack(frames.beside(view, place));
    const { below, above } = frames.beside(view, place, frames.pictures);
    const near = this.nearer(below, above, place);
    if (!near) return;
    const apart = below && above ? above.at - below.at : 0;
    const faded = apart > 0 && apart <= places.plan.blend + Math.max(AT_ONCE, (2 * REFRESHES) / frames.pace()) * passed;
    const share = faded ? (place - below.at) / apart : 0;
    const shown = faded ? `${below.key} ${above.key} ${share.toFixed(2)}` : near.key;
    if (shown === this.shown) return;
    this.shown = shown;
    const picture = (one) => frames.pictures.get(one.key);
    this.screen.paint(picture(faded ? below : near), faded ? picture(above) : null, share);
    this.drawn();
  }

  nearer(below, above, place) {
    if (!below || !above) return below ?? above;
    return place - below.at <= above.at - place ? below : above;
  }

  // Unpacks the frames nearest to the ring that are not yet; each wakes the drawing when it is.
  unpack({ below, above }) {
    for (const one of [below, above]) {
      if (!one || this.frames.pictures.has(one.key) || this.unpacking.has(one.key)) continue;
      this.unpacking.add(one.key);
      this.frames.picture(one.key).catch(() => null).finally(() => {
        this.unpacking.delete(one.key);
        this.wake(this.value);
      });
    }
  }
}
