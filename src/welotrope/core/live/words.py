"""What is said of a live frame: one short sentence for the eye, and why where something hinders."""

from __future__ import annotations

import math

from welotrope.core.live.outline import Outlined
from welotrope.core.live.passes import State
from welotrope.core.live.sweep import Change, LiveReading

STATE_WORDS = {
    State.SEARCHING: "Turn the ring slowly through focus",
    State.RISING: "Getting sharper: keep turning",
    State.PAST: "Past the best: turn back",
    State.AT_BEST: "At the best: stop here",
    State.RESTARTED: "Started again: turn through focus once more",
}
CHANGE_WORDS = {
    Change.NONE: "",
    Change.LIGHT: "The light changed.",
    Change.MOVED: "The subject in the spot changed.",
    Change.BUMPED: "The camera or the subject moved.",
    Change.SIZE: "The picture changed its size.",
    Change.BLACK: "The spot is black. Open the aperture, take the cap off, or move the spot.",
    Change.WHITE: "The spot is overexposed. Darken the picture or move the spot.",
    Change.STILL: "The same picture comes again and again. Is the camera sending a still or a test card?",
    Change.PLAIN: "There is too little detail in the spot. Move it to an edge, a texture or a star.",
}


_LEAST_JUDGED_PX = 4.0  # a blur that edges tell


def headline(reading: LiveReading) -> str:
    """Return what a frame means for the hand on the ring."""
    return STATE_WORDS[reading.state]


def reason(reading: LiveReading) -> str:
    """Return what changed or hinders, as a sentence; empty where nothing does."""
    return CHANGE_WORDS[reading.change]


def found(reading: LiveReading) -> str:
    """Return how sharp a frame is beside the best, with the interval; empty before that can be told."""
    if reading.best_frame is None or reading.change:
        return ""
    low, high = (round(100 * one) for one in (reading.low, reading.high))
    return f"{round(100 * reading.share)} % of the best sharpness, between {low} and {high} %"


def sharp_or_not(outlined: Outlined, limit_px: float) -> str:
    """Return whether a place is sharp by the largest blur allowed, the diameter of a disc in pixels, as a sentence."""
    if math.isnan(outlined.blur_px):
        return "Nothing here can be judged: there is no clear edge. Move the spot."
    if limit_px < _LEAST_JUDGED_PX:
        return "This picture is too coarse to judge it by the standard. Magnify the camera’s own view."
    share = outlined.blur_px / limit_px
    if share <= 1:
        return f"Sharp by the standard: defocus is about {round(100 * share, -1)} % of what it allows."
    return f"Not sharp by the standard: defocus is about {share:.1f} times what it allows."
