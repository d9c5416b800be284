// Settings in words; the text of numbers is that of every page.
import { distanceText, otherUnit, stopText } from "../../../components/text/distance_text.js";
import { spanText } from "../../../components/text/span_text.js";

export const distanceOf = (mm) => (mm === null ? Infinity : mm);

export function range(near, far, unit) {
  const text = spanText(distanceOf(near), distanceOf(far), unit);
  return `${text.near} – ${text.far}`;
}

export const rangeInBoth = (near, far, unit) => [range(near, far, unit), range(near, far, otherUnit(unit))];

// What stands on the far mark of a setting, where a pair of marks stands on its limits; else where focus lies.
export function markWords(setting, unit) {
  if (setting.mark) {
    const [stop, side] = setting.mark;
    return `${distanceText(distanceOf(setting.far), unit)} on the ${side}-hand ${stopText(stop).slice(2)} mark`;
  }
  return setting.reads_true ? "" : `which focuses at ${distanceText(distanceOf(setting.focus), unit)}`;
}

export function ownWords([near, far]) {
  if (near && far && near !== far) return `${near} to ${far}`;
  return near ? `from ${near}` : far ? `to ${far}` : "";
}
