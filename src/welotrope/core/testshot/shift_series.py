"""Focus shift from test shots: one picture of the sheet at each stop, with the ring untouched."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from welotrope.core.errors import ConflictError, OutOfRangeError
from welotrope.core.fields import PICTURES
from welotrope.core.ring.focus_ring import FocusRing
from welotrope.core.ring.focus_shift import ShiftTrial
from welotrope.core.testshot.aid_series import MeasuredShot
from welotrope.core.testshot.plane_reading import WIDE
from welotrope.core.units.exposure import format_stop

LEAST_STOPS = 2


@dataclass(frozen=True, kw_only=True)
class StopPlane:
    """Where focus lies at a stop, against the widest: mm behind (+) or before (-) it, and degrees of ring.

    ``low_mm`` to ``high_mm`` is the 95 % interval; ``turn_deg`` is what brings focus back, positive towards closest
    focus, with its half interval ``wide_deg``, both 0 without a ring; ``pictures`` is how many it comes from.
    """

    stop: float
    shift_mm: float
    low_mm: float
    high_mm: float
    turn_deg: float
    wide_deg: float
    pictures: int


@dataclass(frozen=True, kw_only=True)
class ShiftReading:
    """Where focus lies at each stop, widest first; ``warnings`` say which pictures were left out, and why."""

    stops: tuple[StopPlane, ...]
    trials: tuple[ShiftTrial, ...]
    warnings: tuple[str, ...] = ()


def read_shift(shots: Sequence[MeasuredShot], *, ring: FocusRing | None) -> ShiftReading:
    """Return how focus shifts as a lens stops down.

    Parameters
    ----------
    shots
        Pictures of the sheet, each at its own stop, with camera, sheet and ring left alone.
    ring
        The ring they were taken with, for degrees.

    Raises
    ------
    OutOfRangeError
        When fewer than two pictures tell where focus lay.
    ConflictError
        When they were all taken at one stop.
    """
    counted = sorted((shot for shot in shots if shot.counts), key=lambda shot: shot.stop)
    warnings = tuple(
        f"{shot.picture} ({format_stop(shot.stop)}) was left out. {' '.join(shot.warnings)}"
        for shot in shots if not shot.counts
    )  # fmt: skip
    if len(counted) < LEAST_STOPS:
        raise OutOfRangeError(
            PICTURES,
            len(counted),
            "too few of them tell where focus lay",
            " ".join(warnings) or "Take one at each stop",
        )
    stops = sorted({shot.stop for shot in counted})
    if len(stops) < LEAST_STOPS:
        raise ConflictError(
            PICTURES, format_stop(stops[0]), "all were taken at one stop", "Take one at each stop, widest first"
        )
    first = _mean([shot for shot in counted if shot.stop == stops[0]])
    planes = [_plane(ring, stop, [shot for shot in counted if shot.stop == stop], first) for stop in stops]
    trials = () if ring is None else tuple(_trial(ring, shot, first) for shot in counted)
    return ShiftReading(stops=tuple(planes), trials=trials, warnings=warnings)


def _trial(ring: FocusRing, shot: MeasuredShot, first: tuple[float, float, float]) -> ShiftTrial:
    """Return where the ring would have had to stand for focus to lie at the stop where it lies wide open."""
    fell = (shot.distance_mm or 0.0) + (shot.plane_mm or 0.0)
    return ShiftTrial(shot.stop, round(2 * _angle(ring, first[1] + first[0]) - _angle(ring, fell), 2))


def _plane(
    ring: FocusRing | None, stop: float, shots: Sequence[MeasuredShot], first: tuple[float, float, float]
) -> StopPlane:
    plane, distance, error = _mean(shots)
    zero, _, zero_error = first
    shift = plane - zero
    wide = 0.0 if shift == 0.0 else WIDE * math.hypot(error, zero_error)
    turn = per_mm = 0.0
    if ring is not None:
        turn = _angle(ring, distance + zero) - _angle(ring, distance + plane)
        per_mm = abs(_angle(ring, distance + zero + 1) - _angle(ring, distance + zero - 1)) / 2
    return StopPlane(
        stop=stop, shift_mm=shift, low_mm=shift - wide, high_mm=shift + wide, turn_deg=turn, wide_deg=wide * per_mm,
        pictures=len(shots),
    )  # fmt: skip


def _mean(shots: Sequence[MeasuredShot]) -> tuple[float, float, float]:
    """Return the mean plane from the mark, mean distance of the mark, and standard error of the plane, mm."""
    errors = [((shot.high_mm or 0.0) - (shot.low_mm or 0.0)) / (2 * WIDE) for shot in shots]
    count = len(shots)
    return (
        sum(shot.plane_mm or 0.0 for shot in shots) / count, sum(shot.distance_mm or 0.0 for shot in shots) / count,
        math.sqrt(sum(error**2 for error in errors)) / count,
    )  # fmt: skip


def _angle(ring: FocusRing, distance_mm: float) -> float:
    return float(ring.angle_at_distance(distance_mm))
