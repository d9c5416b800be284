// Where one stands: set-up, setting, ring, stop, and what the page shows; it wakes where it was.
import { RingTable } from "../../../components/ring/table.js";
import { Kept } from "./kept.js";
import { localTime } from "./queue.js";

const USUAL_ISO = 400;

export class FieldState {
  constructor(book, changed) {
    Object.assign(this, { book, changed, tables: new Map(), store: new Kept("welotrope-field-place") });
    const was = this.store.read({});
    const opened = new URLSearchParams(location.search).get("setup");
    const asked = was.made === book.made || !book.in_hand || !opened ? was.hand : book.in_hand;
    this.hand = book.hands.find((hand) => hand.id === (asked ?? book.in_hand)) ?? book.hands[0];
    this.tab = was.tab ?? "zone";
    this.school = was.school ?? "";
    this.iso = was.iso ?? USUAL_ISO;
    this.unit = was.unit ?? book.unit;
    this.look = was.look ?? document.documentElement.dataset.look;
    this.index = was.hand === this.hand.id ? Math.min(was.index ?? 0, this.hand.settings.length - 1) : 0;
    this.take(this.index);
    if (was.hand === this.hand.id && was.stop in this.stopsByValue() && Number.isFinite(was.angle)) {
      Object.assign(this, { stop: was.stop, angle: this.table.clamp(was.angle) });
    }
  }

  stopsByValue() {
    return Object.fromEntries(this.table.stops.map((stop) => [stop, stop]));
  }

  get table() {
    if (!this.tables.has(this.hand.id)) this.tables.set(this.hand.id, new RingTable(this.hand.table));
    return this.tables.get(this.hand.id);
  }

  get stopIndex() {
    return this.table.stops.indexOf(this.stop);
  }

  get setting() {
    return this.hand.settings[this.index];
  }

  // The outing in hand; a page that was left open overnight is in none yet.
  get outing() {
    return this.book.made.startsWith(localTime().slice(0, 10)) ? this.book.outing : null;
  }

  // Whether the ring still stands where the setting says.
  get onSetting() {
    return this.stop === this.setting.stop && Math.abs(this.angle - this.setting.angle) < 0.3;
  }

  // The ring as it stands, read from the table: the plane, what stands under the index, and what is sharp.
  get reading() {
    const { table, angle } = this;
    const { near, far } = table.limits(angle, this.stopIndex);
    return { focus: table.focus(angle, this.stopIndex), index: table.index(angle), near, far };
  }

  take(index) {
    this.index = index;
    this.stop = this.table.stops.includes(this.setting.stop) ? this.setting.stop : this.table.stops[0];
    this.angle = this.setting.angle;
  }

  choose(id) {
    this.hand = this.book.hands.find((hand) => hand.id === id) ?? this.hand;
    this.take(0);
    this.keep();
  }

  step(by) {
    const count = this.hand.settings.length;
    this.take((this.index + by + count) % count);
    this.keep();
  }

  turn(angle) {
    this.angle = this.table.clamp(angle);
  }

  nextLook() {
    const looks = this.book.looks;
    this.look = looks[(looks.indexOf(this.look) + 1) % looks.length];
    this.keep();
  }

  keep() {
    const { tab, school, iso, unit, look, index, stop, angle } = this;
    this.store.write({ made: this.book.made, hand: this.hand.id, tab, school, iso, unit, look, index, stop, angle });
    this.changed();
  }
}
