"""What the engraved depth marks call sharp: the blur circle their maker had in mind.

A pair of marks at half-angle ``α`` for stop ``N`` allows ``c = α·L/(360·N)``; a reading of what the two marks show
allows ``c = A·(v_n − v_f)/(v_n + v_f)`` with ``A = f/N``, the inverse of the limits in ``optics.depth``.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import pairwise

from welotrope.core.errors import ConflictError, Field, OutOfRangeError
from welotrope.core.inputs import field_spec, number_input
from welotrope.core.optics.depth import aperture_diameter, check_blur, film_zone_extension
from welotrope.core.optics.thin_lens import Datum, extension_at, image_of_film_distance
from welotrope.core.ring.helicoid import check_lead
from welotrope.core.ring.survey import distance_cell, stop_cell
from welotrope.core.units.distance import format_metric
from welotrope.core.units.exposure import check_stop, format_stop, snap_stop, stops_between

NEGLIGIBLE_STOPS = 0.25


MARKS_READ = stop_cell("stop", "Marks", "Write which marks you read, such as 16", example="f/16")
FAR_MARK = distance_cell("far", Field("far_mark", "far mark"), "Far mark on", optional=True, example="∞")
INDEX = distance_cell("at_index", Field("index", "index"), "Index on", optional=True)
NEAR_MARK = distance_cell(
    "near", Field("near_mark", "near mark"), "Near mark on", optional=True, example="0.75 m", example_ft="2½ ft"
)
PAIR = stop_cell("pair_stop", "Pair", "Write which pair you measured, such as 16")
BETWEEN = number_input(
    "between", Field("between_the_marks", "between the marks"), "Degrees between the pair", optional=False,
    half_empty="Write degrees",
)  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class MarkReading:
    """What the scale shows at one setting: two at least of far mark, index and near mark, mm.

    Parameters
    ----------
    stop
        The marks read.
    far_mm, index_mm, near_mm
        Distances under the far mark, the index and the near mark; None when not read.
    """

    stop: float = field(metadata=field_spec(MARKS_READ))
    far_mm: float | None = field(default=None, metadata=field_spec(FAR_MARK))
    index_mm: float | None = field(default=None, metadata=field_spec(INDEX))
    near_mm: float | None = field(default=None, metadata=field_spec(NEAR_MARK))


@dataclass(frozen=True)
class MarkPair:
    """A pair of depth marks: its stop and the degrees of ring between the two."""

    stop: float = field(metadata=field_spec(PAIR))
    between_deg: float = field(metadata=field_spec(BETWEEN))


MAX_MARKS = 30


@dataclass(frozen=True)
class MarkRecord:
    """Everything read off a lens's depth marks: 1 to 30 readings and pairs."""

    readings: tuple[MarkReading, ...] = ()
    pairs: tuple[MarkPair, ...] = ()

    def __post_init__(self) -> None:
        count = len(self.readings) + len(self.pairs)
        if not 1 <= count <= MAX_MARKS:
            raise ConflictError(
                "depth marks", f"{count} readings", "that cannot be compared", f"Enter 1 to {MAX_MARKS} readings"
            )

    def blurs(self, focal_mm: float, lead_mm: float, *, h_mm: float = 0.0) -> tuple[tuple[float, float], ...]:
        """Return stop and implied blur in mm of each, readings first."""
        read = ((reading.stop, blur_of_reading(reading, focal_mm, h_mm=h_mm)) for reading in self.readings)
        return (*read, *((pair.stop, blur_of_pair(pair, lead_mm)) for pair in self.pairs))


@dataclass(frozen=True)
class Audit:
    """The implied blur circle.

    Parameters
    ----------
    per_reading
        Stop and blur in mm of each reading, in the order given.
    blur_mm
        All of them together; wide pairs weigh more, since an eye's error matters less there.
    stops_from_standard
        How many stops the engraving is more lenient (positive) or stricter than the standard.
    """

    per_reading: tuple[tuple[float, float], ...]
    blur_mm: float
    stops_from_standard: float

    def stop_to_read(self, stop: float, marked: Sequence[float]) -> float:
        """Return the marked stop whose marks show the standard's depth when the lens is set to ``stop``."""
        return snap_stop(stop / 2 ** (self.stops_from_standard / 2), marked)

    def rule(self, marked: Sequence[float]) -> str:
        """Return the rule to carry in the head: how many stops exactly, and the marks nearest to that."""
        exact = self.stops_from_standard
        if abs(exact) < NEGLIGIBLE_STOPS:
            return "Your standard and the engraving agree: read the marks as they are."
        way = "wider" if exact > 0 else "smaller"
        rule = f"For your criterion use marks {_stops_words(exact)} {way}"
        middle = sorted(marked)[-2] if len(marked) > 1 else marked[0]
        read = self.stop_to_read(middle, marked)
        if read == middle:
            return f"{rule}; none of this lens’s marks lies nearer to that than the one you set."
        off = stops_between(read, middle) - exact
        rest = "" if abs(off) < 0.1 else f", {'a little strict' if off > 0 else 'a little lenient'}"
        return f"{rule}: set {format_stop(middle)}, read the {format_stop(read).removeprefix('f/')} marks{rest}."


def _stops_words(stops: float) -> str:
    text = f"{abs(stops):.1f}"
    return "one stop" if text == "1.0" else f"{text.removesuffix('.0')} stops"


def blur_of_reading(reading: MarkReading, focal_mm: float, *, datum: Datum = Datum.FILM, h_mm: float = 0.0) -> float:
    """Return the blur circle in mm that a reading implies.

    Parameters
    ----------
    reading
        What was read at the depth marks.
    focal_mm
        Focal length in mm, 1 to 5000.
    datum
        Plane that distances are measured from.
    h_mm
        Separation of the principal planes in mm.

    Raises
    ------
    ConflictError
        With fewer than two distances, or when near, index and far are not in that order.
    """
    A = aperture_diameter(focal_mm, check_stop(reading.stop))
    given = [mm for mm in (reading.near_mm, reading.index_mm, reading.far_mm) if mm is not None]
    if len(given) < 2:
        raise ConflictError(
            "reading", format_stop(reading.stop), "one mark says nothing",
            "Read two of far mark, index and near mark at one setting",
        )  # fmt: skip
    if any(first >= second for first, second in pairwise(given)):
        raise ConflictError(
            "reading", " and ".join(format_metric(mm) for mm in given), "the near mark must read nearer than the far",
            "Swap them, or read them again",
        )  # fmt: skip
    blur = A * _share_of_reading(reading, focal_mm, datum, h_mm)
    return check_blur(blur, field="implied blur circle")


def _share_of_reading(reading: MarkReading, f: float, datum: Datum, h: float) -> float:
    """Return the implied blur as a share of the aperture; from the film plane the film stays where the index put it."""
    near, index, far = reading.near_mm, reading.index_mm, reading.far_mm
    focus_x = None
    if datum is Datum.FILM:
        if near is not None and far is not None:
            focus_x = film_zone_extension(near, far, f, h=h)
        elif index is not None:
            focus_x = extension_at(index, f, datum, h=h)

    def image(mm: float) -> float:
        return f + (extension_at(mm, f, datum, h=h) if focus_x is None else image_of_film_distance(mm, focus_x, f, h=h))

    if near is not None and far is not None:
        return (image(near) - image(far)) / (image(near) + image(far))
    if near is not None and index is not None:
        return (image(near) - image(index)) / image(near)
    if index is not None and far is not None:
        return (image(index) - image(far)) / image(far)
    raise ValueError("two distances were given")


def blur_of_pair(pair: MarkPair, lead_mm: float) -> float:
    """Return the blur circle in mm that a pair of marks implies on a ring of lead ``lead_mm``.

    Parameters
    ----------
    pair
        F-number of a pair of marks and degrees between them.
    lead_mm
        Advance of the helicoid in mm a turn, 0.05 to 500.

    Examples
    --------
    >>> round(blur_of_pair(MarkPair(stop=16, between_deg=32), 10.8), 4)
    0.03
    """
    if not 0.05 <= pair.between_deg <= 360:
        raise OutOfRangeError(
            "between the marks", f"{pair.between_deg:g}°", "no pair of marks is that far apart", "Write up to 360°"
        )
    return check_blur(
        pair.between_deg / 2 * check_lead(lead_mm) / (360 * check_stop(pair.stop)), field="implied blur circle"
    )


def audit(blurs: Sequence[tuple[float, float]], standard_mm: float) -> Audit:
    """Combine readings of (stop, implied blur in mm) and compare them with a standard's blur in mm.

    Parameters
    ----------
    blurs
        F-number and implied blur in mm of each reading.
    standard_mm
        Acceptable blur diameter of a standard in mm.
    """
    if not blurs:
        raise ConflictError("readings", "", "there is nothing to read", "Enter one pair of marks at least")
    weight = sum(stop * stop for stop, _ in blurs)
    blur = sum(blur * stop * stop for stop, blur in blurs) / weight
    return Audit(tuple(blurs), blur, stops_from_standard(blur, standard_mm))


def stops_from_standard(implied_mm: float, standard_mm: float) -> float:
    """Return how many stops an implied blur is more lenient (positive) than a standard: ``2·log₂(c/c₀)``.

    Parameters
    ----------
    implied_mm
        Blur diameter in mm that the marks imply.
    standard_mm
        Acceptable blur diameter of a standard in mm.

    Examples
    --------
    >>> round(stops_from_standard(0.06, 0.03), 2)
    2.0
    """
    return 2 * math.log2(check_blur(implied_mm) / check_blur(standard_mm))
