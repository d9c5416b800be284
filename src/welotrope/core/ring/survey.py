"""Readings of a ring taken with what is on the table: where it stands, and what distance that is.

A position is degrees on a collar, millimetres along a tape round the ring, or steps of a scale on the
screen; zero is the infinity stop. A distance is engraved, or measured to what is sharp.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum
from itertools import pairwise
from typing import Unpack

import numpy as np

from welotrope.core import fields
from welotrope.core.errors import ConflictError, Field, OutOfRangeError, TooCloseError, UnreadableError
from welotrope.core.inputs import Ask, FormInput, Input, ValueOptions, choice_input, field_spec, number_input
from welotrope.core.optics.elementwise import FloatArray
from welotrope.core.optics.thin_lens import extension_at_film_distance, shortest_film_distance
from welotrope.core.ring.focus_ring import MAX_THROW_DEG
from welotrope.core.ring.helicoid import ring_mm_per_degree
from welotrope.core.units.distance import Unit, format_distance, format_metric, parse_distance, write_distance
from welotrope.core.units.exposure import format_stop, parse_stop
from welotrope.core.units.text import number, write_number

MAX_POINTS = 60
LEAST_SPAN_DEG = 5.0
LEAST_READING_DEG = 1e-3
SAME_POSITION_DEG = 0.05
STEP_SCALE_DEG = 180.0
_REPEAT_ERRORS = 6.0
# Usual errors of a distance: a tape, and numerals cut by hand in round figures.
MEASURED_ERROR, LEAST_ERROR_MM, ENGRAVED_ERROR = 0.01, 5.0, 0.004


def stop_cell(name: str, label: str, half_empty: str, *, example: str = "") -> Input:
    """Return the input of the stop a row is about.

    Parameters
    ----------
    name
        Name of the input in its form.
    label
        What the input is called on the page.
    half_empty
        What is said when the row's other cells are filled and this is not.
    example
        What may be typed.
    """
    return Input(
        name=name, field=Field("stop", "stop"), label=label, half_empty=half_empty,
        read=lambda text, _typed: parse_stop(text), write=format_stop, example=example,
    )  # fmt: skip


def distance_cell(name: str, field: Field, label: str, **more: Unpack[ValueOptions]) -> Input:
    """Return the input of a distance, mm.

    Parameters
    ----------
    name
        Name of the input in its form.
    field
        What an error names.
    label
        What the input is called on the page.
    **more
        Further options of the input.
    """
    return Input(
        name=name, field=field, label=label,
        read=lambda text, typed: parse_distance(text, field=field, bare=typed.bare),
        write=lambda mm: "" if mm is None else write_distance(mm), **more,
    )  # fmt: skip


def angle_cell(label: str, **more: Unpack[ValueOptions]) -> Input:
    """Return the input of a place on the ring: degrees, or millimetres along it where they say so.

    Parameters
    ----------
    label
        What the input is called on the page.
    **more
        Further options of the input.
    """
    return Input(
        name="angle", field=Field("ring_position", "ring position"), label=label,
        read=ring_angle, write=write_number, **more,
    )  # fmt: skip


def ring_angle(text: str, typed: FormInput) -> float:
    """Read degrees, or millimetres along the ring; raises UnreadableError for mm on a ring of unknown diameter.

    Parameters
    ----------
    text
        What was typed.
    typed
        Texts of the form by name.
    """
    cleaned = text.strip().lower().replace("−", "-")
    if not cleaned.endswith("mm"):
        return number(cleaned, "ring position")
    if typed.mm_per_degree is None:
        raise UnreadableError(
            "ring position", text, "millimetres need the ring’s diameter",
            "Write degrees, or enter the diameter on the lens’s page",
        )  # fmt: skip
    return number(cleaned, "ring position", unit="mm") / typed.mm_per_degree


class WordedChoice(StrEnum):
    """A choice whose members say in words what they are."""

    @property
    def words(self) -> str:
        """What it is, for the choice."""
        return self.value


class ReadingUnit(WordedChoice):
    """How the position of the ring is read."""

    DEGREES = "degrees"
    TAPE = "tape"
    STEPS = "steps"

    @property
    def symbol(self) -> str:
        """Unit behind a number."""
        return {"degrees": "°", "tape": " mm", "steps": " steps"}[self.value]

    @property
    def words(self) -> str:
        """What it is, for the choice."""
        return {
            "degrees": "degrees on a printed collar", "tape": "millimetres along a paper strip",
            "steps": "steps of a scale on the screen",
        }[self.value]  # fmt: skip


class SurveyKind(WordedChoice):
    """Type of distances."""

    ENGRAVED = "engraved"
    MEASURED = "measured"

    @property
    def words(self) -> str:
        """What it is, for the choice."""
        return {
            "engraved": "engraved: each number set to the index",
            "measured": "measured: what is sharp with this lens on this camera",
        }[self.value]


class MeasuredFrom(WordedChoice):
    """Where measured distances start from."""

    FILM = "film"
    FRONT = "front"
    PRINCIPAL = "principal"  # in calculations only: nobody can lay a tape there

    @property
    def words(self) -> str:
        """What it is, for the choice."""
        return {
            "film": "the film plane mark on the body (circle with a line)",
            "front": "the front rim of the lens", "principal": "the front principal plane",
        }[self.value]  # fmt: skip


class ReadingUse(WordedChoice):
    """Whether a reading counts: left to the fit, always, or never."""

    AUTO = "auto"
    KEEP = "keep"
    DROP = "drop"

    @property
    def words(self) -> str:
        """What it is, for the choice."""
        return {"auto": "if it fits", "keep": "always", "drop": "never"}[self.value]


def _one_of(name: str, label: str, kind: type[WordedChoice], *members: WordedChoice, ask: Ask = Ask.PICK) -> Input:
    offered = members or tuple(kind)
    options = tuple((one.value, one.words) for one in offered)
    return choice_input(name, label, kind, offered[0], ask=ask, options=options)


READ_BY = _one_of("way", "How you read the ring", ReadingUnit)
DISTANCES_ARE = _one_of("kind", "Type of distances", SurveyKind)
STARTS_AT = _one_of("start", "Measured from", MeasuredFrom, MeasuredFrom.FILM, MeasuredFrom.FRONT)
DIAMETER = number_input("diameter", fields.TAPE_DIAMETER, "Diameter under the tape", unit="mm", also=("ring_diameter",))
FRONT_AT_INFINITY = number_input("front", fields.FRONT, "Film mark to front rim, ring at infinity", unit="mm")
READING_ERROR = number_input("error", fields.READING_ERROR, "Reading error")
END = number_input("end", fields.END, "End stop at closest focus")
DISTANCE_ERROR = Input(
    name="distance_error", field=fields.DISTANCE_ERROR, label="Distance error", unit="%", mode="decimal",
    optional=True, per=0.01, read=lambda text, _typed: number(text, fields.DISTANCE_ERROR) / 100,
    write=lambda share: write_number(None if share is None else share * 100),
)  # fmt: skip
POSITION = number_input(
    "position", Field("ring_position", "ring position"), "Ring", optional=False,
    half_empty="Write where the ring stood, such as 48.6",
)  # fmt: skip
DISTANCE = distance_cell(
    "distance", Field("distance", "distance"), "Distance", half_empty="Write the distance, such as 2 m or ∞"
)
COUNTS = _one_of("use", "Counts", ReadingUse, ask=Ask.CHOICE)


def asked_by(one: Input, way: ReadingUnit) -> Input:
    """Return an input as it is asked for when the ring is read this way: places on it are in its unit.

    Parameters
    ----------
    one
        The input.
    way
        How the ring is read.
    """
    symbol = way.symbol.strip()
    if way is ReadingUnit.STEPS and one in (POSITION, END):
        return replace(one, label="Step" if one is POSITION else "Last step")
    if one is POSITION:
        return replace(one, label=f"Ring, {symbol}")
    return replace(one, unit=symbol) if one in (READING_ERROR, END) else one


@dataclass(frozen=True)
class Point:
    """A reading: position in the unit of its survey, distance in mm from its start, and whether it counts."""

    position: float = field(metadata=field_spec(POSITION))
    distance_mm: float = field(metadata=field_spec(DISTANCE))
    use: ReadingUse = field(default=ReadingUse.AUTO, metadata=field_spec(COUNTS))


@dataclass(frozen=True, kw_only=True)
class Survey:
    """A set of readings of one ring.

    Parameters
    ----------
    points
        2 to 60 readings in any order.
    way, kind, start
        What positions and distances are.
    diameter_mm
        Diameter the tape lay on, mm; needed for a tape only.
    front_mm
        From the film mark to the front of the lens at infinity, mm; needed when distances start there.
    error
        Reading error of a position, in its unit; None when not told.
    end
        Position of the stop at closest focus; None when not read. For steps, the last step there is.
    distance_error
        Distance error as a share of it; None when not told.

    Raises
    ------
    WelotropeError
        When the readings cannot be those of a ring.
    """

    points: tuple[Point, ...]
    way: ReadingUnit = field(default=ReadingUnit.DEGREES, metadata=field_spec(READ_BY))
    kind: SurveyKind = field(default=SurveyKind.ENGRAVED, metadata=field_spec(DISTANCES_ARE))
    start: MeasuredFrom = field(default=MeasuredFrom.FILM, metadata=field_spec(STARTS_AT))
    diameter_mm: float | None = field(default=None, metadata=field_spec(DIAMETER))
    front_mm: float | None = field(default=None, metadata=field_spec(FRONT_AT_INFINITY))
    error: float | None = field(default=None, metadata=field_spec(READING_ERROR))
    end: float | None = field(default=None, metadata=field_spec(END))
    distance_error: float | None = field(default=None, metadata=field_spec(DISTANCE_ERROR))

    def __post_init__(self) -> None:
        _check_count(self.points)
        if self.way is ReadingUnit.TAPE:
            if self.diameter_mm is None:
                raise ConflictError(
                    fields.TAPE_DIAMETER, "", "millimetres say nothing without it",
                    "Measure the ring across, or wrap the tape round once and divide by 3.1416",
                )  # fmt: skip
            ring_mm_per_degree(self.diameter_mm)
        if self.start is MeasuredFrom.FRONT and self.kind is SurveyKind.MEASURED and self.front_mm is None:
            raise ConflictError(
                fields.FRONT, "", "distances from the front of the lens need it",
                "Measure from the film mark on the body to the front of the lens, ring at infinity",
            )  # fmt: skip
        if self.front_mm is not None and not 0 < self.front_mm <= 2000:
            raise OutOfRangeError(fields.FRONT, f"{self.front_mm:g} mm", "no lens is that long", "Write mm")
        if self.error is not None and not LEAST_READING_DEG <= self.error_deg <= 20:
            raise OutOfRangeError(
                fields.READING_ERROR, f"{self.error:g}{self.way.symbol}", "that is no usable reading error",
                "Write how far apart two readings of one setting come out, such as 0.5",
            )  # fmt: skip
        if self.distance_error is not None and not 0 <= self.distance_error <= 0.5:
            raise OutOfRangeError(
                fields.DISTANCE_ERROR, f"{self.distance_error * 100:g} %", "that is no usable error",
                "Write 0 to 50 %; a tape held well is within 1 %",
            )  # fmt: skip
        _check_positions(self)
        _check_repeats(self)

    @property
    def deg_per_unit(self) -> float:
        """Degrees of ring for one unit of position; a whole scale of steps is drawn as 180°."""
        if self.way is ReadingUnit.TAPE:
            return 1 / ring_mm_per_degree(self.diameter_mm or 0.0)
        if self.way is ReadingUnit.STEPS:
            last = self.end if self.end is not None else max(point.position for point in self.points)
            return STEP_SCALE_DEG / max(last, 1.0)
        return 1.0

    @property
    def error_deg(self) -> float:
        """Reading error in degrees, half a degree or a quarter of a step when not told."""
        if self.error is not None:
            return self.error * self.deg_per_unit
        return 0.25 * self.deg_per_unit if self.way is ReadingUnit.STEPS else 0.5

    @property
    def end_deg(self) -> float | None:
        """Angle of the stop at closest focus, when it was read."""
        return None if self.end is None else self.end * self.deg_per_unit

    def angles_deg(self) -> FloatArray:
        """Ring angles of the readings, degrees, shape (n,)."""
        return np.array([point.position for point in self.points]) * self.deg_per_unit

    def film_distances(self, focal_mm: float, *, h_mm: float = 0.0) -> FloatArray:
        """Distances of the readings from the film plane, mm, shape (n,); from the principal plane as they are."""
        distances = np.array([point.distance_mm for point in self.points])
        if self.kind is SurveyKind.ENGRAVED or self.start is not MeasuredFrom.FRONT:
            return distances
        # The front moves out with the ring, so the distance depends on the extension it gives.
        film = distances + (self.front_mm or 0.0)
        for _ in range(4):
            reach = np.maximum(film, shortest_film_distance(focal_mm, h=h_mm))
            film = distances + (self.front_mm or 0.0) + extension_at_film_distance(reach, focal_mm, h=h_mm)
        return film

    def distance_errors(self, distances_mm: FloatArray) -> FloatArray:
        """Return standard errors of distances, mm: told, else 1 % and at least 5 mm, or 0.4 % engraved."""
        finite = np.where(np.isfinite(distances_mm), distances_mm, 0.0)
        if self.distance_error is not None:
            return finite * self.distance_error
        if self.kind is SurveyKind.ENGRAVED:
            return finite * ENGRAVED_ERROR
        return np.where(finite > 0, np.maximum(finite * MEASURED_ERROR, LEAST_ERROR_MM), 0.0)

    def check_near(self, film_mm: FloatArray, closest_mm: float) -> None:
        """Raise TooCloseError when a distance is nearer than closest focus (mm, film plane) by more than 3 %."""
        for point, distance in zip(self.points, film_mm, strict=True):
            if self.start is not MeasuredFrom.PRINCIPAL and distance < closest_mm * 0.97:
                raise TooCloseError(
                    "distance", format_metric(point.distance_mm),
                    f"that is nearer than closest focus ({format_metric(closest_mm)})",
                    "Correct the distance, or correct closest focus on the lens’s page",
                )  # fmt: skip

    def name(self, index: int, *, unit: Unit = Unit.METRIC) -> str:
        """Name a reading by its distance and, if another has the same, its position."""
        point = self.points[index]
        text = format_distance(point.distance_mm, unit)
        twins = sum(math.isclose(other.distance_mm, point.distance_mm) for other in self.points)
        return text if twins < 2 else f"{text} at {point.position:g}{self.way.symbol}"


def _check_count(points: Sequence[Point]) -> None:
    if len(points) < 2:
        raise ConflictError(
            "readings", f"{len(points)} reading{'' if len(points) == 1 else 's'}",
            "one setting says nothing about both the throw and infinity", "Take two at least; eight make errors show",
        )  # fmt: skip
    if len(points) > MAX_POINTS:
        raise OutOfRangeError(
            "readings", f"{len(points)} readings", "that is more than a ring needs", f"Give at most {MAX_POINTS}"
        )


def _check_positions(survey: Survey) -> None:
    symbol = survey.way.symbol
    for point in survey.points:
        if not math.isfinite(point.position) or abs(point.position * survey.deg_per_unit) > MAX_THROW_DEG:
            raise OutOfRangeError(
                "ring position", f"{point.position:g}{symbol}", "no ring turns that far",
                "Write the travel from the infinity stop",
            )  # fmt: skip
        if not point.distance_mm > 0:
            raise OutOfRangeError("distance", f"{point.distance_mm:g} mm", "it must be more than nothing", "Write 2 m")
    angles, distances = survey.angles_deg(), [point.distance_mm for point in survey.points]
    if len(set(distances)) < 2:
        raise ConflictError(
            "readings", format_metric(distances[0]), "all are at one distance", "Take settings far apart on the ring"
        )
    if float(np.ptp(angles)) < LEAST_SPAN_DEG and survey.way is not ReadingUnit.STEPS:
        raise ConflictError(
            "readings", f"{float(np.ptp(angles)):.1f}° from first to last",
            f"all lie within {LEAST_SPAN_DEG:g}° of the ring", "Take settings far apart, up to closest focus",
        )  # fmt: skip
    if survey.end is not None and survey.end * survey.deg_per_unit < float(np.max(angles)) - 1:
        raise ConflictError(
            fields.END, f"{survey.end:g}{symbol}", "a reading lies beyond it",
            "Write where the ring stops at closest focus, or leave it empty",
        )  # fmt: skip


def _check_repeats(survey: Survey) -> None:
    """Two distances cannot be sharp at one position, unless they lie within the reading error of each other."""
    ordered = sorted(
        (point for point in survey.points if point.use is not ReadingUse.DROP), key=lambda point: point.position
    )
    vergences = [1 / point.distance_mm for point in ordered]
    if len(set(vergences)) < 2:
        return
    travel = (ordered[-1].position - ordered[0].position) * survey.deg_per_unit
    per_vergence = travel / (max(vergences) - min(vergences))
    for first, second in pairwise(ordered):
        if (second.position - first.position) * survey.deg_per_unit > SAME_POSITION_DEG:
            continue
        nearer, farther = sorted((first.distance_mm, second.distance_mm))
        if (1 / nearer - 1 / farther) * per_vergence > _REPEAT_ERRORS * survey.error_deg:
            raise ConflictError(
                "readings",
                f"{format_metric(nearer)} and {format_metric(farther)} at {first.position:g}{survey.way.symbol}",
                "one setting cannot be two distances", "Read one of them again, or leave it out",
            )  # fmt: skip
