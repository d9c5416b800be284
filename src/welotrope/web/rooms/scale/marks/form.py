"""Depth marks as typed."""

from __future__ import annotations

from welotrope.core.inputs import FormInput, Input, inputs_of
from welotrope.core.ring.depth_marks import MarkPair, MarkReading, MarkRecord, blur_of_pair, blur_of_reading
from welotrope.web.rooms.scale.rows import Row, RowsForm, built, columns_of, padded, read_rows

_LEAST_READINGS, _LEAST_PAIRS = 4, 3


class MarksForm(RowsForm):
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
        return cls.model_validate(columns_of(MarkReading, record.readings) | columns_of(MarkPair, record.pairs))

    @property
    def columns(self) -> tuple[Input, ...]:
        """What is asked for in a row of readings."""
        return inputs_of(MarkReading)

    @property
    def rows(self) -> list[Row]:
        """Readings with blank rows after them."""
        return padded(self.rows_of(MarkReading), self.columns, least=_LEAST_READINGS)

    @property
    def pair_columns(self) -> tuple[Input, ...]:
        """What is asked for in a row of pairs."""
        return inputs_of(MarkPair)

    @property
    def pair_rows(self) -> list[Row]:
        """Pairs with blank rows after them."""
        return padded(self.rows_of(MarkPair), self.pair_columns, least=_LEAST_PAIRS)

    def record(self, typed: FormInput, focal_mm: float, lead_mm: float) -> tuple[MarkRecord | None, list[str]]:
        """Return the record, or None with a sentence per row that is wrong."""
        readings, problems = read_rows(
            MarkReading,
            self.rows_of(MarkReading),
            "Reading",
            typed,
            check=lambda found: blur_of_reading(found, focal_mm),
        )
        pairs, more = read_rows(
            MarkPair, self.rows_of(MarkPair), "Pair", typed, check=lambda found: blur_of_pair(found, lead_mm)
        )
        return built(lambda: MarkRecord(tuple(readings), tuple(pairs)), [*problems, *more])
