// The path of the ring over time, thinned so that it stays small.
const LEAST_S = 0.03;
const MOST = 1500;

export class Trace {
  constructor() {
    this.points = [];
    this.started = 0;
  }

  start(value) {
    this.started = performance.now();
    this.points = [[0, value]];
  }

  seconds() {
    return this.started ? (performance.now() - this.started) / 1000 : 0;
  }

  note(value) {
    if (!this.started) return;
    const seconds = this.seconds();
    const last = this.points[this.points.length - 1];
    if (this.points.length > 1 && seconds - this.points[this.points.length - 2][0] < LEAST_S) last.splice(0, 2, seconds, value);
    else if (this.points.length < MOST) this.points.push([seconds, value]);
    else this.points.splice(1, 1), this.points.push([seconds, value]);
  }

  json() {
    return JSON.stringify(this.points.map(([seconds, value]) => [Number(seconds.toFixed(3)), Number(value.toFixed(3))]));
  }
}
