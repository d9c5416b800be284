"""When a series has told what it is taken for, so that the pictures left over cannot change the answer."""

from __future__ import annotations

from itertools import pairwise
from statistics import median

from welotrope.core.kit.setup import Setup
from welotrope.core.optics.depth import film_zone
from welotrope.core.optics.thin_lens import extension_at_film_distance
from welotrope.core.testshot.series_record import SeriesCurve, SeriesPoint, SeriesRecord
from welotrope.core.testshot.series_words import PLANE, SeriesKind

_BEYOND = 2  # pictures beyond the sharpest one
_LEAST_STOPS = 3
_OF_DEPTH, _OF_STEP = 0.25, 0.15  # how well focus shift has to be known, of half the depth; the ring, of a step


def is_settled(kind: SeriesKind, record: SeriesRecord, setup: Setup) -> bool:
    """Return whether more pictures of a series, in its order, would leave what it tells as it is.

    Parameters
    ----------
    kind
        What was changed between the pictures.
    record
        What the pictures so far told.
    setup
        What they were taken with.
    """
    if kind is SeriesKind.STOPS:
        return all(_is_past(record.curve(part)) for part in ("centre", "corner"))
    if kind is SeriesKind.SHIFT:
        return _shift_is_known(record.curve(PLANE), record.distance_mm, setup)
    return kind is SeriesKind.RING and _ring_is_known(record.curve("middle"))


def _is_past(curve: SeriesCurve | None) -> bool:
    """Whether stops beyond the sharpest were taken, so that only diffraction is left to come."""
    if curve is None or curve.best is None:
        return False
    return sum(one.at > curve.best and (one.high or 1.0) < 1 for one in curve.points) >= _BEYOND


def _shift_is_known(curve: SeriesCurve | None, distance_mm: float | None, setup: Setup) -> bool:
    """Whether the last stop moved focus by no more than a share of its depth of field, whose growth hides the rest."""
    if curve is None or distance_mm is None or len(curve.points) < _LEAST_STOPS:
        return False
    before, last = sorted(curve.points, key=lambda one: one.at)[-2:]
    f = setup.lens.focal_mm
    zone = film_zone(float(extension_at_film_distance(distance_mm, f)), f, last.at, setup.blur_mm)
    return abs(last.score - before.score) + _wide(last) + _wide(before) < _OF_DEPTH * (zone.focus_mm - zone.near_mm)


def _wide(point: SeriesPoint) -> float:
    return 0.0 if point.low is None or point.high is None else (point.high - point.low) / 2


def _ring_is_known(curve: SeriesCurve | None) -> bool:
    """Whether the sharpest place is known to a share of a step, with pictures on both sides of it."""
    if curve is None or curve.best is None or curve.low is None or curve.high is None:
        return False
    places = sorted(one.at for one in curve.points)
    step = median(after - before for before, after in pairwise(places))
    sides = [sum(at < curve.low for at in places), sum(at > curve.high for at in places)]
    return min(sides) >= _BEYOND and (curve.high - curve.low) / 2 <= _OF_STEP * step
