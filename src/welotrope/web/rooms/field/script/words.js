// Settings in words; the text of numbers is that of every page.
import { distanceText, otherUnit, stopText } from "../../../components/text/distance_text.js";
import { spanText } from "../../../components/text/span_text.js";

export const distanceOf = (mm) => (mm === null ? Infinity : mm);

export function range(near, far, unit) {
  const text = spanText(distanceOf(near), distanceOf(far), unit);
  return `${text.near} – ${text.far}`;
}

export const rangeInBoth = (near, far, unit) => [range(near, far, unit), range(near, far, otherUnit(unit))];

// What stands on the far mark of a setting: the surest way to put it.
export function farMark(setting, hand, unit) {
  return `${distanceText(distanceOf(setting.far), unit)} on the ${hand.far_side}-hand ${stopText(setting.stop).slice(2)} mark`;
}

export function ownWords([near, far]) {
  if (near && far && near !== far) return `${near} to ${far}`;
  return near ? `from ${near}` : far ? `to ${far}` : "";
}
