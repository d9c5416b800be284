"""Which distances to engrave, and which of them fit on the ring without touching."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from welotrope.core.ring.focus_ring import FocusRing
from welotrope.core.units.distance import MM_PER_FOOT, Unit

# Nominal distances in the leading unit; the earlier row wins a place when two would touch.
_METRES = (
    (1.0, 2.0, 5.0, 10.0, 0.5, 3.0),
    (0.3, 0.7, 1.5, 20.0, 4.0, 7.0, 0.4, 0.6, 0.8, 0.25, 0.2, 50.0),
    (1.2, 2.5, 0.9, 15.0, 30.0, 6.0, 0.35, 0.45, 1.8, 1.1, 1.3, 1.4, 1.6, 0.55, 0.65, 0.75, 0.85, 0.22, 0.28, 100.0),
)
_FEET = (
    (3.0, 5.0, 10.0, 30.0, 2.0, 1.0, 7.0, 15.0),
    (4.0, 6.0, 20.0, 1.5, 50.0, 100.0, 8.0, 2.5, 12.0),
    (1.25, 1.75, 9.0, 3.5, 4.5, 25.0, 40.0, 60.0, 5.5, 6.5, 200.0),
)
_SHOWN_APART_DEG = 4.0  # of those of a usual set
_FRACTIONS = {0.25: "¼", 0.5: "½", 0.75: "¾"}


@dataclass(frozen=True)
class EngravedMark:
    """A distance on the ring: where it sits, what it reads, and whether its numeral has room."""

    angle_deg: float
    distance_mm: float
    text: str
    numeral: bool


def numeral(distance_mm: float, unit: Unit) -> str:
    """Write the engraved numeral in metres or feet: ``2.5`` or ``7½`` without the unit; infinity as ``∞``.

    Parameters
    ----------
    distance_mm
        Distance in mm; infinity allowed.
    unit
        Leading unit: metric, or feet and inches.
    """
    if math.isinf(distance_mm):
        return "∞"
    if unit is Unit.METRIC:
        return f"{round(distance_mm / 1000, 2):g}"
    feet = round(distance_mm / MM_PER_FOOT, 2)
    whole, rest = divmod(feet, 1)
    fraction = _FRACTIONS.get(round(rest, 2))
    if fraction is None:
        return f"{feet:g}"
    return f"{whole:.0f}{fraction}" if whole else fraction


def engraved_marks(
    ring: FocusRing,
    unit: Unit,
    numeral_deg: float,
    digit_deg: float,
    *,
    engraved: Sequence[float] = (),
    tick_deg: float = 0.0,
) -> list[EngravedMark]:
    """Return the marks of one scale in order of angle, numerals thinned so that none touch.

    Parameters
    ----------
    ring
        The ring to mark.
    unit
        System of the numerals.
    numeral_deg, digit_deg
        Room in degrees a numeral needs besides its characters, and per character.
    engraved
        The lens's own engraved distances in mm; when given, they alone are used (plus infinity), in the
        order that keeps the ends.
    tick_deg
        Least distance between marks; those nearer to a better-ranked one are left out.
    """
    ranked = _own(engraved) if engraved else _nominal(unit)
    closest, farthest = ring.closest_mm * (1 - 1e-6), ring.farthest_mm * (1 + 1e-6)
    reachable = [mm for mm in ranked if closest <= mm <= farthest]
    angles = ring.angle_at_distance(np.array(reachable, dtype=np.float64)).tolist()
    apart = sorted(fit_labels(angles, [tick_deg] * len(angles)))
    angles, reachable = [angles[index] for index in apart], [reachable[index] for index in apart]
    texts = [numeral(mm, unit) for mm in reachable]
    kept = fit_labels(angles, [numeral_deg + digit_deg * len(text) for text in texts])
    marks = [
        EngravedMark(angle, mm, text, index in kept)
        for index, (angle, mm, text) in enumerate(zip(angles, reachable, texts, strict=True))
    ]
    return sorted(marks, key=lambda mark: mark.angle_deg)


_SHARES = (
    (0.25, "a quarter of the way"), (1 / 3, "a third of the way"), (0.5, "halfway"),
    (2 / 3, "two thirds of the way"), (0.75, "three quarters of the way"),
)  # fmt: skip


def place_between(scale: FocusRing, engraved: Sequence[float], angle_deg: float, unit: Unit, close_deg: float) -> str:
    """Say where the index stands between two engraved numbers, such as ``halfway from 10 to 15 ft``.

    Parameters
    ----------
    scale
        The ring as engraved.
    engraved
        The engraved distances, mm, in any order; infinity need not be among them.
    angle_deg
        Where the index stands, degrees from infinity.
    unit
        System of the numerals.
    close_deg
        What counts as standing on a number, degrees.

    Returns
    -------
    str
        Empty where the index stands on a number, or where none lies on one side of it.
    """
    places = sorted((float(scale.angle_at_distance(mm)), mm) for mm in {math.inf, *engraved})
    if any(abs(angle - angle_deg) <= close_deg for angle, _ in places):
        return ""
    farther = [(angle, mm) for angle, mm in places if angle < angle_deg]
    nearer = [(angle, mm) for angle, mm in places if angle > angle_deg]
    if not farther or not nearer:
        return ""
    (far_deg, far), (near_deg, near) = farther[-1], nearer[0]
    share = (far_deg - angle_deg) / (far_deg - near_deg)
    rung = min((0.0, ""), *_SHARES, (1.0, ""), key=lambda one: abs(one[0] - share))
    if not rung[1]:
        beside, side = (far, "nearer") if share < 0.5 else (near, "farther")
        return f"just {side} than {numeral(beside, unit)}{'' if math.isinf(beside) else f' {unit.value}'}"
    return f"{rung[1]} from {numeral(far, unit)} to {numeral(near, unit)} {unit.value}"


def fit_labels(positions: Sequence[float], widths: Sequence[float]) -> set[int]:
    """Choose labels that do not overlap, earlier ones first; positions and widths share one unit.

    Returns the indices kept. Labels are centred on their positions.

    Parameters
    ----------
    positions
        Middle of each label.
    widths
        Width of each label.
    """
    kept: list[int] = []
    for index, (position, width) in enumerate(zip(positions, widths, strict=True)):
        if all(abs(position - positions[k]) >= (width + widths[k]) / 2 for k in kept):
            kept.append(index)
    return set(kept)


def _nominal(unit: Unit) -> list[float]:
    rows, scale = (_METRES, 1000.0) if unit is Unit.METRIC else (_FEET, MM_PER_FOOT)
    return [math.inf, *(value * scale for row in rows for value in row)]


def _own(engraved: Sequence[float]) -> list[float]:
    """Infinity and the nearest first, then by repeatedly halving the list so that thinning stays even."""
    finite = sorted({mm for mm in engraved if math.isfinite(mm)})
    ranked = [math.inf, *finite[:1], *finite[-1:]]
    step = len(finite)
    while step > 1:
        step = (step + 1) // 2
        ranked += [mm for mm in finite[::step] if mm not in ranked]
    return ranked + [mm for mm in finite if mm not in ranked]


def scale_distances(ring: FocusRing, engraved: Sequence[float], unit: Unit) -> list[float]:
    """Return the distances to show of a scale, mm, nearest first and infinity last: its own, or a usual set.

    Parameters
    ----------
    ring
        The lens's ring.
    engraved
        Distances engraved on it, mm; none where they are not known.
    unit
        That leads where a usual set is shown.
    """
    own = [mm for mm in engraved if mm >= ring.closest_mm * (1 - 1e-6)]
    if own:
        return sorted({*own, math.inf})
    found = engraved_marks(ring, unit, _SHOWN_APART_DEG, 0.0, engraved=(), tick_deg=_SHOWN_APART_DEG)
    return sorted(mark.distance_mm for mark in found if mark.numeral)
