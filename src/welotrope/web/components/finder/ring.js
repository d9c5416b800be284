// A ring turned by drag, wheel, touch and keys, with the drag of old grease; or, locked, the body leaning.
const PX_PER_UNIT = 8;
const GREASE_S = 0.11;
const STILL = 0.4;

export class TurningRing {
  constructor(surfaces, { low, high, value, direction, fine, coarse, up }, turned) {
    Object.assign(this, { low, high, value, direction, fine, coarse, up, turned, speed: 0 });
    this.calm = matchMedia("(prefers-reduced-motion: reduce)").matches;
    for (const surface of surfaces) {
      surface.addEventListener("pointerdown", (event) => this.grab(event, surface));
      surface.addEventListener("wheel", (event) => this.wheel(event), { passive: false });
    }
  }

  set(value) {
    this.value = Math.min(Math.max(value, this.low), this.high);
    if (this.value === this.low || this.value === this.high) this.speed = 0;
    this.turned(this.value);
  }

  grab(event, surface) {
    if (event.button) return;
    event.preventDefault();
    surface.setPointerCapture(event.pointerId);
    this.speed = 0;
    let last = { x: event.clientX, at: event.timeStamp };
    const move = (moved) => {
      const by = (-(moved.clientX - last.x) / PX_PER_UNIT) * this.direction;
      const seconds = Math.max((moved.timeStamp - last.at) / 1000, 0.001);
      this.speed = 0.6 * this.speed + 0.4 * (by / seconds);
      last = { x: moved.clientX, at: moved.timeStamp };
      this.set(this.value + by);
    };
    const drop = (up) => {
      surface.removeEventListener("pointermove", move);
      if (up.timeStamp - last.at > 80) this.speed = 0;
      this.coast();
    };
    surface.addEventListener("pointermove", move);
    surface.addEventListener("pointerup", drop, { once: true });
    surface.addEventListener("pointercancel", drop, { once: true });
  }

  wheel(event) {
    event.preventDefault();
    this.set(this.value + ((event.deltaY || event.deltaX) / 100) * this.fine * (event.shiftKey ? 12 : 3));
  }

  key(event) {
    const step = event.shiftKey ? this.coarse : this.fine;
    const by = { ArrowRight: this.direction, ArrowLeft: -this.direction, ArrowUp: this.up, ArrowDown: -this.up }[event.key];
    if (!by) return false;
    this.set(this.value + by * step);
    return true;
  }

  // Turns on after it is let go, slower and slower.
  coast() {
    if (this.calm || Math.abs(this.speed) < STILL) return;
    let last = performance.now();
    const roll = (now) => {
      const seconds = Math.min((now - last) / 1000, 0.05);
      last = now;
      this.speed *= Math.exp(-seconds / GREASE_S);
      if (Math.abs(this.speed) < STILL) return;
      this.set(this.value + this.speed * seconds);
      requestAnimationFrame(roll);
    };
    requestAnimationFrame(roll);
  }
}
