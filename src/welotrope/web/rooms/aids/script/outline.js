// Outlines what is sharp by the standard, a few times a second.
import { sendGrey } from "./measuring.js";

const EVERY_MS = 300;
const WIDE = 960;
const HIGH = 640;

export class Outline {
  constructor(select, view, scale, failed) {
    Object.assign(this, { select, view, scale, failed, busy: false, last: 0, sweep: crypto.randomUUID().slice(0, 18) });
    select.addEventListener("change", () => this.changed());
  }

  // The blurs that can be told in this picture.
  offer(levels) {
    const chosen = this.select.value;
    this.select.replaceChildren(new Option("off", ""), ...levels.map(({ mm }, index) => new Option(`to ${mm}`, index)));
    this.select.value = this.select.options[Number(chosen) + 1] && chosen ? chosen : "";
    this.select.disabled = !levels.length;
  }

  toggle() {
    this.select.selectedIndex = this.select.value ? 0 : Math.min(2, this.select.options.length - 1);
    this.changed();
  }

  changed() {
    this.view.cells = null;
    this.sweep = crypto.randomUUID().slice(0, 18);
  }

  // ``spotOnly`` looks at the spot alone and tells how sharp it is, whatever is outlined.
  async look(spotOnly) {
    const level = spotOnly ? { px: this.scale().sharp_px } : this.scale().levels[this.select.value];
    if (!level) this.view.cells = null;
    if (this.busy || !level || !this.view.size[0] || performance.now() - this.last < EVERY_MS) return;
    const { sweep } = this;
    this.busy = true;
    this.last = performance.now();
    try {
      const piece = spotOnly ? this.view.grey(this.view.side, this.view.side) : this.view.grey(WIDE, HIGH);
      const place = `${sweep.slice(0, 12)}-${piece.left}-${piece.top}`;
      const found = await sendGrey("outline", { sweep: place, limit_px: level.px }, piece);
      if (sweep === this.sweep) this.view.cells = { left: piece.left, top: piece.top, cell: found.cell_px, rows: found.cells };
      if (spotOnly) document.getElementById("live-found").textContent = found.says;
    } catch (error) {
      this.failed(error.message);
    }
    this.busy = false;
  }
}
