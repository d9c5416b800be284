// Where to put an indicator on a screen: the same words as welotrope.core.plan.setting, compared by a test.
const GRAINS = [1, 0.5, 0.25, 0.1];
const SHARE = 0.5;
const COUNTS = ["", "one", "two"];
const halfUp = (value) => Math.floor(value + 0.5);

export function indicatorText(angle, indicator, direction, halfWindow) {
  if (!indicator) return "";
  const step = rounded(angle / indicator, halfWindow / indicator);
  const anchor = 5 * halfUp(step / 5);
  const off = step - anchor;
  if (Math.abs(off) < 1e-9) return `Indicator on step ${anchor}.`;
  const side = (off > 0) === (direction > 0) ? "right" : "left";
  return `Indicator ${count(Math.abs(off))} ${side} of ${anchor}.`;
}

function rounded(value, halfWindow) {
  let found = value;
  for (const grain of GRAINS) {
    found = halfUp(value / grain) * grain;
    if (Math.abs(found - value) <= SHARE * halfWindow) break;
  }
  return found;
}

function count(amount) {
  const whole = Math.floor(amount + 1e-9);
  const quarters = (amount % 1) * 4;
  if (Math.abs(quarters - Math.round(quarters)) > 1e-6) return `${amount.toFixed(1)} steps`;
  const part = Math.round(quarters) % 4;
  if (part === 0) return `${COUNTS[Math.round(amount)]} step${Math.round(amount) > 1 ? "s" : ""}`;
  if (!whole) return ["a quarter step", "half a step", "three quarters of a step"][part - 1];
  return `${COUNTS[whole]} and ${["a quarter", "a half", "three quarters"][part - 1]} steps`;
}
