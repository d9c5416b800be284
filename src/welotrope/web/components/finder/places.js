// Which frames there are along the ring or the lean, and which are wanted next.
const AHEAD = [0, 1, 2, -1, 3, 4, -2, 6, 8];
const EVEN = 22;

export class Places {
  constructor(plan, state) {
    Object.assign(this, { plan, state });
  }

  grid() {
    return this.plan.grids[this.plan.steps.indexOf(this.state.step)];
  }

  // The smallest turn of a key.
  fine() {
    return this.plan.lean ? 1 : Math.max(this.grid() / 2, 0.05);
  }

  index(value) {
    return Math.round(value / (this.plan.lean ? this.plan.lean_grid : this.grid()));
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
  *wanted(value) {
    const at = this.index(value);
    for (const by of AHEAD) {
      const i = at + by * this.state.way;
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
