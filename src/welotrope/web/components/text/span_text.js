// A sharp range as text: the same wording as welotrope.core.units.distance, compared by a browser test.
import { distanceText, roughText } from "./distance_text.js";

const MM_PER_INCH = 25.4;
const MAX_DISTANCE_MM = 1e7;
const LEAST_UNITS = 3;
const EIGHTHS = ["", "⅛", "¼", "⅜", "½", "⅝", "¾", "⅞"];

export function spanText(near, far, unit) {
  if (far > MAX_DISTANCE_MM) return { near: distanceText(near, unit), far: distanceText(far, unit), depth: "" };
  const write = (unit === "ft" ? inFeet : inMetres)(far, far - near);
  return { near: write(near), far: write(far), depth: depthText(far - near, unit) };
}

export function depthText(mm, unit) {
  const small = unit === "ft" ? mm / MM_PER_INCH : mm;
  const sign = unit === "ft" ? "″" : " mm";
  if (small < 0.295) return `${small.toFixed(2)}${sign}`;
  return small < 2.95 ? `${small.toFixed(1)}${sign}` : roughText(mm, unit);
}

const places = (difference) => Math.min(Math.max(Math.ceil(-Math.log10(Math.max(difference, 1e-9) / LEAST_UNITS)), 0), 6);

function inMetres(far, deep) {
  const usual = far >= 99950 ? 0 : far >= 9995 ? 1 : 2;
  const count = places(deep / 1000);
  if (count <= usual) return (mm) => distanceText(mm, "m");
  return count > 3 ? (mm) => `${mm.toFixed(count - 3)} mm` : (mm) => `${(mm / 1000).toFixed(count)} m`;
}

function inFeet(far, mm) {
  const deep = mm / MM_PER_INCH;
  const usual = far < 36 * MM_PER_INCH ? 0.5 : far < 360 * MM_PER_INCH ? 1 : 12;
  if (deep >= LEAST_UNITS * usual) return (value) => distanceText(value, "ft");
  const step = [8, 4, 2, 1].find((count) => deep >= (LEAST_UNITS * count) / 8);
  if (step) return (value) => inEighths(value, step);
  const count = places(deep);
  return (value) => {
    const inches = value / MM_PER_INCH;
    const feet = Math.floor(inches / 12 + 1e-12);
    const rest = `${(inches - 12 * feet).toFixed(count)}″`;
    return feet ? `${feet}′${rest}` : rest;
  };
}

function inEighths(mm, step) {
  const all = Math.floor(((mm / MM_PER_INCH) * 8) / step + 0.5) * step;
  const [feet, rest] = [Math.floor(all / 96), all % 96];
  const [whole, part] = [Math.floor(rest / 8), EIGHTHS[rest % 8]];
  return feet ? `${feet}′${whole}${part}″` : `${whole || (part ? "" : "0")}${part}″`;
}
