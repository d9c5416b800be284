"""The time of a subject on its way, on the same axis as the ground."""

from __future__ import annotations

import math
from dataclasses import dataclass

from welotrope.core.plan.trap import Trap
from welotrope.core.ring.engraving import fit_labels
from welotrope.web.components.ground.view import GroundAxis

_STEPS_S = (0.05, 0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 30.0, 60.0)
_MOST, _ROOM, _NARROW_ROOM = 40, 7.0, 17.0  # ticks, percent of the width


@dataclass(frozen=True)
class TimeTick:
    """A moment: its place in percent of the width, and its seconds from passing the plane."""

    percent: float
    text: str
    fits_narrow: bool


@dataclass(frozen=True)
class TimeAxis:
    """Moments along the ground, and the press."""

    ticks: tuple[TimeTick, ...]
    press: float


def time_axis(axis: GroundAxis, trap: Trap) -> TimeAxis:
    """Lay out when the subject is where, 0 s at the plane of focus."""
    if math.isinf(trap.focus_mm):
        return TimeAxis((), axis.percent(trap.press_at_mm))
    ends = sorted((trap.seconds_to(axis.start_mm), trap.seconds_to(axis.end_mm)))
    step = next((one for one in _STEPS_S if (ends[1] - ends[0]) / one <= _MOST), _STEPS_S[-1])
    first = math.ceil(ends[0] / step)
    moments = [step * index for index in range(first, min(math.floor(ends[1] / step), first + 4 * _MOST) + 1)]
    placed = sorted(moments, key=lambda seconds: (abs(seconds), seconds))
    places = [axis.percent(max(trap.focus_mm - seconds * trap.mm_per_s, axis.start_mm)) for seconds in placed]
    shown = fit_labels(places, [_ROOM] * len(places))
    narrow = fit_labels(places, [_NARROW_ROOM] * len(places))
    ticks = sorted((TimeTick(places[i], _text(placed[i]), i in narrow) for i in shown), key=lambda tick: tick.percent)
    return TimeAxis(tuple(ticks), axis.percent(trap.press_at_mm))


def _text(seconds: float) -> str:
    return "0 s" if abs(seconds) < 1e-9 else f"{seconds:+.2g} s".replace("-", "−")
