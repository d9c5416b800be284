"""The forms of what else is recorded of a ring: depth marks, sightings of infinity, trials of focus shift."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

from welotrope.core.errors import UnreadableError, WelotropeError
from welotrope.core.ring.depth_marks import MarkPair, MarkReading, MarkRecord, blur_of_pair, blur_of_reading
from welotrope.core.ring.focus_shift import FocusShift, Trial
from welotrope.core.ring.true_infinity import InfinityRecord, Sighting, Warmth
from welotrope.core.units.distance import Unit, parse_distance, write_distance
from welotrope.core.units.stops import format_stop, parse_stop
from welotrope.web.forms import TextForm, number
from welotrope.web.rooms.scale.rows import filled, padded, read_rows, required

RecordT = TypeVar("RecordT")


def written(mm: float | None) -> str:
    """Write a distance for its field; empty for none."""
    return "" if mm is None else write_distance(mm)


class MarksForm(TextForm):
    """Depth marks as typed: readings of the scale, and pairs of marks by the degrees between them."""

    intent: str = ""
    stop: list[str] = []
    far: list[str] = []
    at_index: list[str] = []
    near: list[str] = []
    pair_stop: list[str] = []
    between: list[str] = []

    @classmethod
    def of(cls, record: MarkRecord) -> MarksForm:
        """Fill the form from a record."""
        return cls(
            stop=[format_stop(reading.stop) for reading in record.readings],
            far=[written(reading.far_mm) for reading in record.readings],
            at_index=[written(reading.index_mm) for reading in record.readings],
            near=[written(reading.near_mm) for reading in record.readings],
            pair_stop=[format_stop(pair.stop) for pair in record.pairs],
            between=[f"{pair.between_deg:g}" for pair in record.pairs],
        )

    @property
    def rows(self) -> list[tuple[str, ...]]:
        """Readings with blank rows after them."""
        return padded(self._readings(), 4)[: max(4, len(self._readings()) + 2)]

    @property
    def pair_rows(self) -> list[tuple[str, ...]]:
        """Pairs with blank rows after them."""
        pairs = filled(self.pair_stop, self.between)
        return padded(pairs, 2)[: max(3, len(pairs) + 2)]

    def record(self, unit: Unit, focal_mm: float, lead_mm: float) -> tuple[MarkRecord | None, list[str]]:
        """Return the record, or None with a sentence per row that is wrong."""

        def reading(row: tuple[str, ...]) -> MarkReading:
            stop = parse_stop(required(row[0], "stop", "Write which marks you read, such as 16"))
            far, index, near = (parse_distance(text, bare=unit) if text else None for text in row[1:4])
            found = MarkReading(stop, far, near, index)
            blur_of_reading(found, focal_mm)
            return found

        def pair(row: tuple[str, ...]) -> MarkPair:
            stop = parse_stop(required(row[0], "stop", "Write which pair you measured, such as 16"))
            found = MarkPair(stop, number(required(row[1], "between the marks", "Write degrees"), "between the marks"))
            blur_of_pair(found, lead_mm)
            return found

        readings, problems = read_rows(self._readings(), "Reading", reading)
        pairs, more = read_rows(filled(self.pair_stop, self.between), "Pair", pair)
        return _built(lambda: MarkRecord(tuple(readings), tuple(pairs)), [*problems, *more])

    def _readings(self) -> list[tuple[str, ...]]:
        rows = filled(self.stop, self.far, self.at_index, self.near)
        late = [row for row in _all(self.stop, self.far, self.at_index, self.near) if any(row) and not any(row[:2])]
        return [*rows, *late]


class InfinityForm(TextForm):
    """Sightings as typed."""

    intent: str = ""
    angle: list[str] = []
    warmth: list[str] = []
    farthest: str = ""

    @classmethod
    def of(cls, record: InfinityRecord) -> InfinityForm:
        """Fill the form from a record."""
        return cls(
            angle=[f"{sighting.angle_deg:g}" for sighting in record.sightings],
            warmth=[sighting.warmth.value for sighting in record.sightings],
            farthest=written(record.farthest_mm),
        )

    @property
    def rows(self) -> list[tuple[str, ...]]:
        """Sightings with blank rows after them."""
        typed = [row for row in _all(self.angle, self.warmth) if row[0]]
        return padded(typed, 2)[: max(5, len(typed) + 2)]

    def record(self, unit: Unit, mm_per_degree: float | None) -> tuple[InfinityRecord | None, list[str]]:
        """Return the record, or None with the sentences of what is wrong."""

        def sighting(row: tuple[str, ...]) -> Sighting:
            return Sighting(_angle(row[0], mm_per_degree), Warmth(row[1]) if row[1] in set(Warmth) else Warmth.UNNOTED)

        typed = [row for row in _all(self.angle, self.warmth) if row[0]]
        sightings, problems = read_rows(typed, "Sighting", sighting)

        def build() -> InfinityRecord:
            farthest = parse_distance(self.farthest, field="farthest sharp", bare=unit) if self.farthest else None
            if not sightings and farthest is None:
                raise UnreadableError("sightings", "", "there is none", "Write where the ring stood, such as 2.5")
            return InfinityRecord(tuple(sightings), farthest)

        return _built(build, problems)


class ShiftForm(TextForm):
    """Trials of focus shift as typed."""

    intent: str = ""
    stop: list[str] = []
    angle: list[str] = []

    @classmethod
    def of(cls, record: FocusShift) -> ShiftForm:
        """Fill the form from a record."""
        return cls(
            stop=[format_stop(trial.stop) for trial in record.trials],
            angle=[f"{trial.angle_deg:g}" for trial in record.trials],
        )

    @property
    def rows(self) -> list[tuple[str, ...]]:
        """Trials with blank rows after them."""
        return padded(filled(self.stop, self.angle), 2)

    def record(self, mm_per_degree: float | None) -> tuple[FocusShift | None, list[str]]:
        """Return the record, or None with the sentences of what is wrong."""

        def trial(row: tuple[str, ...]) -> Trial:
            stop = parse_stop(required(row[0], "stop", "Write the stop, such as 2.8"))
            return Trial(stop, _angle(required(row[1], "ring", "Write where it was sharpest"), mm_per_degree))

        trials, problems = read_rows(filled(self.stop, self.angle), "Trial", trial)
        return _built(lambda: FocusShift(tuple(trials)), problems)


def _angle(text: str, mm_per_degree: float | None) -> float:
    """Read degrees, or millimetres along the ring when they say so."""
    cleaned = text.strip().lower().replace("−", "-")
    if not cleaned.endswith("mm"):
        return number(cleaned, "ring position")
    if mm_per_degree is None:
        raise UnreadableError(
            "ring position", text, "millimetres need the ring’s diameter",
            "Write degrees, or enter the diameter on the lens’s page",
        )  # fmt: skip
    return number(cleaned, "ring position", "mm") / mm_per_degree


def _built(build: Callable[[], RecordT], problems: list[str]) -> tuple[RecordT | None, list[str]]:
    if problems:
        return None, problems
    try:
        return build(), []
    except WelotropeError as error:
        return None, [error.sentence]


def _all(*columns: list[str]) -> list[tuple[str, ...]]:
    longest = max((len(column) for column in columns), default=0)
    return [tuple(column[i] if i < len(column) else "" for column in columns) for i in range(longest)]
