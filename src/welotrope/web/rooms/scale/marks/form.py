"""Depth marks as typed."""

from __future__ import annotations

from welotrope.core.ring.depth_marks import MarkPair, MarkReading, MarkRecord, blur_of_pair, blur_of_reading
from welotrope.core.units.distance import Unit, parse_distance
from welotrope.core.units.numbers import number
from welotrope.core.units.stops import format_stop, parse_stop
from welotrope.web.forms.text_form import TextForm
from welotrope.web.rooms.scale.rows import built, every, filled, padded, read_rows, required, written


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
        )  # fmt: skip

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
        return built(lambda: MarkRecord(tuple(readings), tuple(pairs)), [*problems, *more])

    def _readings(self) -> list[tuple[str, ...]]:
        rows = filled(self.stop, self.far, self.at_index, self.near)
        late = [row for row in every(self.stop, self.far, self.at_index, self.near) if any(row) and not any(row[:2])]
        return [*rows, *late]
