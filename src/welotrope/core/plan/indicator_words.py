"""Where to put the indicator of a lens that is read from a screen; the script has the same words."""

from __future__ import annotations

from welotrope.core.kit.setup import Setup
from welotrope.core.ring.window import sharp_window
from welotrope.core.units.distance import half_up

_GRAINS = (1.0, 0.5, 0.25, 0.1)  # steps, halves, quarters, tenths
_SHARE = 0.5  # of the window either side that rounding may take
_COUNTS = ("", "one", "two")


def indicator_words(setup: Setup, angle_deg: float, stop: float) -> str:
    """Say where to put the indicator for a ring angle, degrees, as a sentence; empty for a ring of its own."""
    words = setting_words(setup, angle_deg, stop)
    return f"Indicator {words}." if words else ""


def setting_words(setup: Setup, angle_deg: float, stop: float) -> str:
    """Say where to put an indicator: “on step 15”, “one and a half steps left of 15”; empty for a ring of its own.

    Whole fives are what an eye finds on a row of unnumbered steps; infinity's side tells left from right. Fractions are
    said where whole steps would leave the middle half of the sharp window.
    """
    step_deg = setup.known.step_deg
    if step_deg is None:
        return ""
    window = sharp_window(setup.ring(stop), angle_deg - setup.shift_deg(stop), stop, setup.blur_mm)
    step = _rounded(angle_deg / step_deg, float(window.width_deg) / step_deg / 2)
    anchor = 5 * half_up(step / 5)
    off = step - anchor
    if abs(off) < 1e-9:
        return f"on step {anchor}"
    nearward = "left" if setup.lens.infinity_side.value == "right" else "right"
    farward = "right" if nearward == "left" else "left"
    return f"{_count(abs(off))} {nearward if off > 0 else farward} of {anchor}"


def preset_words(setup: Setup, distance_mm: float, stop: float) -> str:
    """Say where the indicator stands for a preset, mm from the film plane; empty for a ring of its own."""
    return setting_words(setup, setup.ring(stop).setting_for(distance_mm), stop)


def _rounded(value: float, half_window: float) -> float:
    """Round to the coarsest grain that stays within its share of the window, to tenths at worst."""
    for grain in _GRAINS:
        rounded = half_up(value / grain) * grain
        if abs(rounded - value) <= _SHARE * half_window:
            break
    return rounded


def _count(amount: float) -> str:
    whole, quarters = int(amount + 1e-9), round((amount % 1) * 4, 6)
    if abs(quarters - round(quarters)) > 1e-6:
        return f"{amount:.1f} steps"
    if round(quarters) in (0, 4):
        whole = round(amount)
        return f"{_COUNTS[whole]} step{'s' if whole > 1 else ''}"
    if not whole:
        return ("a quarter step", "half a step", "three quarters of a step")[round(quarters) - 1]
    return f"{_COUNTS[whole]} and {('a quarter', 'a half', 'three quarters')[round(quarters) - 1]} steps"
