// Distances as text: the same wording as welotrope.core.units.distance, compared by a browser test.
const MM_PER_INCH = 25.4;
const MAX_DISTANCE_MM = 1e7;
const EIGHTHS = ["", "⅛", "¼", "⅜", "½", "⅝", "¾", "⅞"];
const halfUp = (value) => Math.floor(value + 0.5);
const trim = (text) => (text.includes(".") ? text.replace(/0+$/, "").replace(/\.$/, "") : text);

export function metricText(mm) {
  if (mm > MAX_DISTANCE_MM) return "∞";
  if (mm < 99.95) return `${trim(mm.toFixed(1))} mm`;
  const metres = mm / 1000;
  if (metres < 0.9995) return `${metres.toFixed(3).replace(/0$/, "")} m`;
  if (metres < 99.95) return `${metres.toFixed(metres < 9.995 ? 2 : 1)} m`;
  return metres < 999.5 ? `${metres.toFixed(0)} m` : `${halfUp(metres / 10) * 10} m`;
}

export function feetText(mm) {
  if (mm > MAX_DISTANCE_MM) return "∞";
  const inches = mm / MM_PER_INCH;
  if (inches >= 999.5 * 12) return `${halfUp(inches / 120) * 10}′`;
  if (inches >= 360) return `${halfUp(inches / 12)}′`;
  if (inches >= 36) {
    const whole = halfUp(inches);
    return `${Math.floor(whole / 12)}′${whole % 12}″`;
  }
  const eighths = halfUp(inches * 8);
  if (eighths === 0) return "0″";
  if (eighths < 96) return `${Math.floor(eighths / 8) || ""}${EIGHTHS[eighths % 8]}″`;
  const halves = halfUp(inches * 2);
  return `${Math.floor(halves / 24)}′${Math.floor((halves % 24) / 2)}${halves % 2 ? "½" : ""}″`;
}

export const distanceText = (mm, unit) => (unit === "ft" ? feetText(mm) : metricText(mm));
export function roughText(mm, unit) {
  if (mm > MAX_DISTANCE_MM) return "∞";
  if (unit !== "ft") {
    if (mm < 0.95) return mm >= 0.005 ? `${mm.toFixed(2)} mm` : "under 0.01 mm";
    if (mm < 9.5) return `${mm.toFixed(mm < 2.95 ? 1 : 0)} mm`;
    if (mm < 995) return `${(mm / 10).toFixed(0)} cm`;
    return mm < 9950 ? `${(mm / 1000).toFixed(1)} m` : `${(mm / 1000).toFixed(0)} m`;
  }
  const inches = mm / MM_PER_INCH;
  if (inches < 0.5) return "under ½″";
  if (inches < 23.5) return `${halfUp(inches)}″`;
  const halves = halfUp(inches / 6);
  return inches < 120 ? `${Math.floor(halves / 2)}${halves % 2 ? "½" : ""}′` : `${halfUp(inches / 12)}′`;
}
export const otherUnit = (unit) => (unit === "ft" ? "m" : "ft");
export const degreesText = (value) => (value < 9.95 ? `${value.toFixed(1)}°` : `${value.toFixed(0)}°`);
// An amount of turning: degrees, or a unit that stands for so many degrees, as welotrope.core.units.turn writes it.
export function turnText(degrees, unit) {
  if (!unit) return degreesText(degrees);
  const count = degrees / unit.deg;
  if (unit.fine && count < 0.95) return `${count.toFixed(2)}${unit.many}`;
  const text = count > 9.95 ? count.toFixed(1).replace(".0", "") : count.toFixed(1);
  return `${text}${text === "1.0" ? unit.one : unit.many}`;
}
export const stopText = (stop) => {
  const text = stop.toFixed(stop < 1 ? 2 : stop < 10 ? 1 : 0);
  return `f/${trim(text)}`;
};
