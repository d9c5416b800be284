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

// Position at which a monotone column, rising or falling, reaches a value.
function find(column, value) {
  let low = 0;
  let high = column.length - 1;
  const way = Math.sign(column[high] - column[0]);
  if (way * (value - column[0]) <= 0) return 0;
  if (way * (value - column[high]) >= 0) return high;
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (way * (value - column[middle]) >= 0) low = middle;
    else high = middle;
  }
  return low + (value - column[low]) / (column[high] - column[low]);
}

// Reciprocal distances: 0 is infinity, less than that lies past it.
const distanceOf = (vergence) => (vergence > 0 ? 1 / vergence : Infinity);
const vergenceOf = (distance) => (Number.isFinite(distance) ? 1 / distance : 0);

export class RingTable {
  constructor(data) {
    this.step = data.step_deg;
    this.throw = data.throw_deg;
    this.start = data.start_deg;
    this.shift = data.shift_deg;
    this.indicator = data.indicator_deg;
    this.turnIn = data.turn_in;
    this.factor = data.factor;
    this.stops = data.stops;
    this.mmPerDegree = data.mm_per_deg;
    this.vergence = unpack(data.vergence, data.vergence_unit);
    this.scale = data.scale && unpack(data.scale, data.vergence_unit);
    this.near = data.near.map((column) => unpack(column, data.angle_unit_deg));
    this.far = data.far.map((column) => unpack(column, data.angle_unit_deg));
    this.width = data.width.map((column) => unpack(column, data.angle_unit_deg));
    this.nearVergence = data.near_vergence.map((column) => unpack(column, data.vergence_unit));
    this.farVergence = data.far_vergence.map((column) => unpack(column, data.vergence_unit));
    this.tolerance = data.tolerance;
    this.readDeg = data.read_deg;
    this.marksRead = data.marks_read;
  }

  clamp(angle) {
    return Math.min(Math.max(angle, 0), this.throw);
  }

  // What a place on the scale has in focus.
  distance(place) {
    return distanceOf(read(this.vergence, (place - this.start) / this.step));
  }

  place(distance) {
    return this.start + find(this.vergence, vergenceOf(distance)) * this.step;
  }

  // What is in focus with the index at a ring angle, its focus shift at this stop put in.
  focus(angle, stopIndex) {
    return this.distance(angle - this.shift[stopIndex]);
  }

  setting(distance, stopIndex) {
    return this.clamp(this.place(distance) + this.shift[stopIndex]);
  }

  // The depth marks as places on the scale.
  window(angle, stopIndex) {
    const position = angle / this.step;
    return { near: read(this.near[stopIndex], position), far: read(this.far[stopIndex], position) };
  }

  // How far the ring may be turned while a subject that stays is sharp.
  windowWidth(angle, stopIndex) {
    return read(this.width[stopIndex], angle / this.step);
  }

  // The near and far limits as distances, and those within which a subject still counts as inside.
  limits(angle, stopIndex) {
    const position = angle / this.step;
    const near = read(this.nearVergence[stopIndex], position);
    const far = read(this.farVergence[stopIndex], position);
    const slack = (near - far) * this.tolerance;
    return {
      near: distanceOf(near), far: distanceOf(far), insideNear: distanceOf(near + slack), insideFar: distanceOf(far - slack),
    };
  }

  // Ring angle that puts a distance on the far mark of this stop, within the travel.
  angleWithFarMark(distance, stopIndex) {
    return this.clamp(find(this.farVergence[stopIndex], vergenceOf(distance)) * this.step);
  }

  // A stop as marked on the lens, which glass behind it changes.
  marked(stop) {
    return stop / this.factor;
  }

  // What one looks at while turning: 1° of ring, a step of an indicator, a millimetre of a bed.
  get turn() {
    return this.turnIn?.deg ?? 1;
  }

  // How far the plane moves for one turn, half of it either way.
  travelPerTurn(angle, stopIndex) {
    return this.focus(angle - this.turn / 2, stopIndex) - this.focus(angle + this.turn / 2, stopIndex);
  }

  // What stands under the index at a ring angle: the engraving where it has a column of its own.
  index(angle) {
    return this.scale ? distanceOf(read(this.scale, angle / this.step)) : this.distance(angle);
  }

  // Whether index and plane of focus agree to what an eye reads on a ring.
  readsTrue(angle, stopIndex) {
    const place = angle - this.shift[stopIndex];
    const reads = this.scale ? find(this.scale, read(this.vergence, (place - this.start) / this.step)) * this.step : place;
    return Math.abs(reads - angle) <= this.readDeg;
  }
}
