"""Where to put the indicator of a lens that is read from a screen; the script has the same words."""

from __future__ import annotations

from welotrope.core.kit.setup import Setup


def indicator_words(setup: Setup, angle_deg: float) -> str:
    """Say where to put the indicator, as a sentence; empty for a ring of its own."""
    words = setting_words(setup, angle_deg)
    return f"Indicator {words}." if words else ""


def setting_words(setup: Setup, angle_deg: float) -> str:
    """Say where to put an indicator: “on step 15” or “one step left of 15”; empty for a ring of its own.

    Whole fives are what an eye finds on a row of unnumbered steps; infinity's side tells left from right.
    """
    step_deg = setup.known.step_deg
    if step_deg is None:
        return ""
    step = round(angle_deg / step_deg)
    anchor = 5 * round(step / 5)
    off = step - anchor
    if off == 0:
        return f"on step {anchor}"
    nearward = "left" if setup.lens.infinity_side.value == "right" else "right"
    farward = "right" if nearward == "left" else "left"
    count = {1: "one step", 2: "two steps"}[abs(off)]
    return f"{count} {nearward if off > 0 else farward} of {anchor}"


def preset_words(setup: Setup, distance_mm: float, stop: float) -> str:
    """Say where the indicator stands for a preset; empty for a ring of its own."""
    return setting_words(setup, setup.ring(stop).setting_for(distance_mm))
