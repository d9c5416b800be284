// The table computed by the server, unpacked for looking up. Angles are degrees from infinity, distances mm.

function unpack(packed, unit) {
  const values = new Float64Array(packed.length);
  let value = packed[0];
  let step = packed[1] ?? 0;
  values[0] = value * unit;
  for (let i = 1; i < packed.length; i += 1) {
    if (i > 1) step += packed[i];
    value += step;
    values[i] = value * unit;
  }
  return values;
}

// Linear reading between grid points.
function read(column, position) {
  const i = Math.min(Math.max(Math.floor(position), 0), column.length - 2);
  return column[i] + (column[i + 1] - column[i]) * (position - i);
}

// Position at which a monotone column reaches a value.
function find(column, value) {
  let low = 0;
  let high = column.length - 1;
  if (value <= column[0]) return 0;
  if (value >= column[high]) return high;
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (column[middle] <= value) low = middle;
    else high = middle;
  }
  return low + (value - column[low]) / (column[high] - column[low]);
}

export class RingTable {
  constructor(data) {
    this.step = data.step_deg;
    this.throw = data.throw_deg;
    this.start = data.start_deg;
    this.shift = data.shift_deg;
    this.indicator = data.indicator_deg;
    this.stops = data.stops;
    this.mmPerDegree = data.mm_per_deg;
    this.vergence = unpack(data.vergence, data.vergence_unit);
    this.scale = data.scale && unpack(data.scale, data.vergence_unit);
    this.near = data.near.map((column) => unpack(column, data.angle_unit_deg));
    this.far = data.far.map((column) => unpack(column, data.angle_unit_deg));
  }

  clamp(angle) {
    return Math.min(Math.max(angle, 0), this.throw);
  }

  // What a place on the scale has in focus; past infinity nothing nearer.
  distance(place) {
    const vergence = read(this.vergence, (place - this.start) / this.step);
    return vergence > 0 ? 1 / vergence : Infinity;
  }

  place(distance) {
    return this.start + find(this.vergence, Number.isFinite(distance) ? 1 / distance : 0) * this.step;
  }

  // What is in focus with the index at a ring angle, its focus shift at this stop put in.
  focus(angle, stopIndex) {
    return this.distance(angle - this.shift[stopIndex]);
  }

  setting(distance, stopIndex) {
    return this.clamp(this.place(distance) + this.shift[stopIndex]);
  }

  // The ends of the sharp window as places on the scale.
  window(angle, stopIndex) {
    const position = angle / this.step;
    return { near: read(this.near[stopIndex], position), far: read(this.far[stopIndex], position) };
  }

  // Ring angle whose far mark of this stop lies on the place given, within the travel.
  angleWithFarMark(place, stopIndex) {
    return this.clamp(find(this.far[stopIndex], place) * this.step);
  }

  // What one looks at while turning: 1° of ring, or a step of an indicator.
  get turn() {
    return this.indicator ?? 1;
  }

  // How far the plane moves for one turn, half of it either way.
  travelPerTurn(angle, stopIndex) {
    return this.focus(angle - this.turn / 2, stopIndex) - this.focus(angle + this.turn / 2, stopIndex);
  }

  // What the engraving says at a ring angle, where that is not what is in focus.
  engraved(angle) {
    const vergence = read(this.scale, angle / this.step);
    return vergence > 0 ? 1 / vergence : Infinity;
  }
}
