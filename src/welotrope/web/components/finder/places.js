// Which frames there are along the ring or the lean, and which are wanted next.
const AHEAD = [0, 1, 2, -1, 3, 4, -2, 6, 8, -4, 12, 16, -8];
const EVEN = 22;
const CALM_S = 0.15; // after which a ring that told nothing stands still

export class Places {
  constructor(plan, state) {
    Object.assign(this, { plan, state, speed: 0, last_at: 0, at: 0 });
  }

  // Notes where the ring stands, which way it goes, and how fast, frames a second.
  turned(value) {
    const [now, at] = [performance.now() / 1000, this.place(value)];
    const by = at - this.at;
    if (by) this.state.way = Math.sign(by);
    const seconds = Math.max(now - this.last_at, 0.004);
    this.speed = seconds > CALM_S ? 0 : 0.7 * this.speed + 0.3 * Math.abs(by / seconds);
    Object.assign(this, { at, last_at: now });
  }

  // How many frames apart those to fetch may stand, so that as many come a second as the ring passes at its speed.
  stride(pace) {
    if (performance.now() / 1000 - this.last_at > CALM_S) return 1;
    return 2 ** Math.max(0, Math.ceil(Math.log2(Math.max(this.speed, 1) / pace)));
  }

  grid() {
    return this.plan.grids[this.plan.steps.indexOf(this.state.step)];
  }

  // The smallest turn of a key.
  fine() {
    return this.plan.lean ? 1 : Math.max(this.grid() / 2, 0.05);
  }

  // Where a value of the ring or the lean lies among the frames; the frames stand at whole numbers.
  place(value) {
    return value / (this.plan.lean ? this.plan.lean_grid : this.grid());
  }

  index(value) {
    return Math.round(this.place(value));
  }

  last() {
    const { lean, lean_grid, throw_deg } = this.plan;
    return lean ? Math.floor(lean / lean_grid) : Math.floor(throw_deg / this.grid());
  }

  first() {
    return this.plan.lean ? -this.last() : 0;
  }

  view() {
    const { step, area, turned, mask, level, colour } = this.state;
    return `&step=${step}&x=${area[0]}&y=${area[1]}&turned=${turned ? 1 : 0}&mask=${mask ? 1 : 0}&level=${level}&colour=${colour}`;
  }

  key(i) {
    const { lean, lean_grid } = this.plan;
    return lean ? `l=${i}&i=0&lean=${(i * lean_grid).toFixed(2)}${this.view()}` : `i=${i}${this.view()}`;
  }

  // What is looked at, what comes next in the direction of turning, then an even set over the whole travel.
  *wanted(value, { pace, seconds }) {
    const stride = this.stride(pace);
    const lead = stride > 1 ? this.speed * seconds * this.state.way : 0;
    const at = Math.round((this.place(value) + lead) / stride);
    for (const by of AHEAD) {
      const i = (at + by * this.state.way) * stride;
      if (i >= this.first() && i <= this.last()) yield this.key(i);
    }
    for (const i of this.evenSet()) yield this.key(i);
  }

  evenSet() {
    const span = this.last() - this.first();
    const count = Math.min(EVEN, span + 1);
    return Array.from({ length: count }, (_, k) => this.first() + Math.round((span * k) / Math.max(count - 1, 1)));
  }
}
