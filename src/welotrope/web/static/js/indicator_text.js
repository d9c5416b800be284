// Where to put an indicator on a screen: the same words as welotrope.web.instruments.indicator_words, compared by a test.
export function indicatorText(angle, indicator, direction) {
  if (!indicator) return "";
  const step = halfEven(angle / indicator);
  const anchor = 5 * halfEven(step / 5);
  const off = step - anchor;
  if (off === 0) return `Indicator on step ${anchor}.`;
  const side = (off > 0) === (direction > 0) ? "right" : "left";
  return `Indicator ${Math.abs(off) === 1 ? "one step" : "two steps"} ${side} of ${anchor}.`;
}

const halfEven = (value) => {
  const floor = Math.floor(value);
  const rest = value - floor;
  return rest < 0.5 || (rest === 0.5 && floor % 2 === 0) ? floor : floor + 1;
};
