"""Marks at true size for a strip of paper wrapped round a ring.

Places are millimetres along the strip from the ring's zero, positive to the right when the strip is read from
above with the lens pointing away. A strip of thickness ``t`` round a ring of diameter ``d`` bends about its own
middle, so a degree takes ``π·(d + t)/360`` mm of paper.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from welotrope.core.errors import ConflictError, OutOfRangeError
from welotrope.core.ring.engraving import engraved_marks, fit_labels, numeral
from welotrope.core.ring.focus_ring import FocusRing
from welotrope.core.ring.helicoid import ring_mm_per_degree
from welotrope.core.ring.window import sharp_window
from welotrope.core.units.distance import Unit
from welotrope.core.units.exposure import format_stop

NUMERAL_GAP_MM, DIGIT_MM = 1.6, 1.5
SMALL_GAP_MM, SMALL_DIGIT_MM = 1.2, 1.1
TICK_GAP_MM = 0.6
FULL_TURN_DEG = 350.0
MAX_PAPER_MM = 1.0


class MarkKind(StrEnum):
    """What a mark on a strip is."""

    LEADING = "leading"
    OTHER = "other"
    PRESET = "preset"
    STOP = "stop"
    INDEX = "index"
    ZERO = "zero"
    DEGREE = "degree"


@dataclass(frozen=True)
class StripMark:
    """A mark: its place in mm, what it reads, whether its text has room, and on a collar its degree."""

    at_mm: float
    text: str
    kind: MarkKind
    labelled: bool = True
    degree: int | None = None


@dataclass(frozen=True)
class Wrap:
    """A ring of diameter ``diameter_mm`` with paper of ``paper_mm`` round it.

    ``direction`` is +1 when nearer distances lie to the right of infinity, −1 when to the left.
    """

    diameter_mm: float
    paper_mm: float = 0.0
    direction: int = -1

    def __post_init__(self) -> None:
        ring_mm_per_degree(self.diameter_mm)
        if not 0 <= self.paper_mm <= MAX_PAPER_MM:
            raise OutOfRangeError(
                "paper thickness", f"{self.paper_mm:g} mm", "no strip is that thick",
                "Write 0 to 1 mm; office paper is 0.1, self-adhesive film 0.15",
            )  # fmt: skip

    @property
    def mm_per_degree(self) -> float:
        """Paper per degree of ring, mm."""
        return math.pi * (self.diameter_mm + self.paper_mm) / 360

    @property
    def circumference_mm(self) -> float:
        """Paper once round, mm."""
        return 360 * self.mm_per_degree

    def place(self, angle_deg: float) -> float:
        """Place of a ring angle along the strip, mm."""
        return self.direction * angle_deg * self.mm_per_degree

    def angle(self, at_mm: float) -> float:
        """Ring angle at a place along the strip, degrees."""
        return self.direction * at_mm / self.mm_per_degree


def distance_marks(
    ring: FocusRing,
    wrap: Wrap,
    units: Sequence[Unit],
    *,
    distances_mm: Sequence[float] = (),
    presets: Sequence[tuple[str, float]] = (),
) -> list[StripMark]:
    """Return the marks of a distance strip; a zero mark shows what to lay on the index at the infinity stop.

    Parameters
    ----------
    ring
        The ring as it truly is, adapter included.
    wrap
        The ring's size and direction.
    units
        Leading unit, and the other if both are wanted.
    distances_mm
        Distances from the film plane for the leading unit, infinity included if wanted; empty for a legible set.
    presets
        Names and ring angles (degrees) of the photographer's own settings.

    Raises
    ------
    OutOfRangeError
        When a distance cannot be reached, or the ring turns too far for one strip.
    """
    check_one_turn(ring)
    for mm in distances_mm:
        ring.check_reach(mm, field="distance on the strip")
    marks = [StripMark(0.0, "", MarkKind.ZERO)]
    for unit, kind in zip(units, (MarkKind.LEADING, MarkKind.OTHER), strict=False):
        gap, digit = (NUMERAL_GAP_MM, DIGIT_MM) if kind is MarkKind.LEADING else (SMALL_GAP_MM, SMALL_DIGIT_MM)
        if distances_mm and kind is MarkKind.LEADING:
            marks += _chosen(ring, wrap, unit, distances_mm, gap, digit)
        else:
            per_mm = 1 / wrap.mm_per_degree
            found = engraved_marks(ring, unit, gap * per_mm, digit * per_mm, engraved=(), tick_deg=TICK_GAP_MM * per_mm)
            marks += [StripMark(wrap.place(m.angle_deg), m.text, kind, m.numeral) for m in found]
    return marks + _preset_marks(wrap, presets)


def depth_marks(ring: FocusRing, wrap: Wrap, stops: Sequence[float], blur_mm: float) -> list[StripMark]:
    """Return index and pairs of depth marks for the fixed side, places in mm from the index; exact at infinity.

    ``blur_mm`` is the photographer's own standard.

    Parameters
    ----------
    ring
        The focus ring.
    wrap
        What the strip is wrapped round.
    stops
        Marked f-numbers.
    blur_mm
        Acceptable blur diameter in mm, 0.0001 to 2.
    """
    infinity = ring.infinity_deg
    windows = [sharp_window(ring, infinity, stop, blur_mm) for stop in stops]
    places = [(wrap.place(one.near_deg - infinity), wrap.place(one.far_deg - infinity)) for one in windows]
    order = sorted(range(len(places)), key=lambda i: -stops[i])
    widths = [SMALL_GAP_MM + SMALL_DIGIT_MM * len(_stop_text(stops[i])) for i in order]
    kept = {order[k] for k in fit_labels([abs(places[i][0]) for i in order], widths) if abs(places[order[k]][0]) > 2}
    marks = [StripMark(0.0, "", MarkKind.INDEX)]
    for i, (near, far) in enumerate(places):
        marks += [StripMark(at, _stop_text(stops[i]), MarkKind.STOP, i in kept) for at in (near, far)]
    return marks


def protractor_marks(wrap: Wrap) -> list[StripMark]:
    """Return the marks of a collar that reads degrees, 0 to 359, growing towards closest focus; cut before 355.

    Parameters
    ----------
    wrap
        What the strip is wrapped round.
    """
    marks = []
    every = 1 if wrap.mm_per_degree >= 0.3 else 2
    for degree in range(-4, 356, every):
        text = f"{degree}" if degree % 10 == 0 and (wrap.mm_per_degree >= 0.3 or degree % 20 == 0) else ""
        marks.append(StripMark(wrap.place(degree), text, MarkKind.DEGREE, bool(text), degree % 360))
    return marks


def check_one_turn(ring: FocusRing) -> None:
    """Raise OutOfRangeError when the ring turns so far that marks of two turns would fall together.

    Parameters
    ----------
    ring
        The focus ring.
    """
    if ring.throw_deg > FULL_TURN_DEG:
        raise OutOfRangeError(
            "throw", f"{ring.throw_deg:.0f}°", "marks of two turns would fall on each other",
            f"Strips serve rings that turn up to {FULL_TURN_DEG:g}°; print the table instead",
        )  # fmt: skip


def _chosen(
    ring: FocusRing, wrap: Wrap, unit: Unit, distances_mm: Sequence[float], gap: float, digit: float
) -> list[StripMark]:
    """Every chosen distance gets its tick; numerals that would touch give way to those written first."""
    angles = [float(ring.angle_at_distance(mm)) for mm in distances_mm]
    texts = [numeral(mm, unit) for mm in distances_mm]
    places = [wrap.place(angle) for angle in angles]
    kept = fit_labels(places, [gap + digit * len(text) for text in texts])
    return [
        StripMark(at, text, MarkKind.LEADING, i in kept) for i, (at, text) in enumerate(zip(places, texts, strict=True))
    ]


def _preset_marks(wrap: Wrap, presets: Sequence[tuple[str, float]]) -> list[StripMark]:
    places = [wrap.place(angle) for _, angle in presets]
    # A name stands to the right of its tick.
    widths = [SMALL_GAP_MM + 0.95 * len(name) for name, _ in presets]
    kept = fit_labels([at + width / 2 for at, width in zip(places, widths, strict=True)], widths)
    return [
        StripMark(at, name, MarkKind.PRESET, i in kept)
        for i, (at, (name, _)) in enumerate(zip(places, presets, strict=True))
    ]


def _stop_text(stop: float) -> str:
    return format_stop(stop).removeprefix("f/")


def no_room(marks: Sequence[StripMark], *, distances: bool = True) -> list[str]:
    """Return the presets, and with ``distances`` the leading distances too, whose text found no room.

    Parameters
    ----------
    marks
        Marks of the strip.
    distances
        Whether leading distances count too.
    """
    kinds = (MarkKind.LEADING, MarkKind.PRESET) if distances else (MarkKind.PRESET,)
    return [mark.text for mark in marks if not mark.labelled and mark.kind in kinds]


def check_strip_diameter(diameter_mm: float | None) -> float:
    """Return the diameter, mm, when there is one that can be wrapped.

    Parameters
    ----------
    diameter_mm
        Diameter of the ring in mm.

    Raises
    ------
    ConflictError, OutOfRangeError
        When it is not known, or no ring has it.
    """
    if diameter_mm is None:
        raise ConflictError(
            "ring diameter", "", "a strip at true size needs it",
            "Measure across the ring, or wrap the strip's own paper once round and divide its length by 3.1416",
        )  # fmt: skip
    ring_mm_per_degree(diameter_mm)
    return diameter_mm
