"""Trials of focus shift as typed."""

from __future__ import annotations

from collections.abc import Sequence

from welotrope.core.inputs import FormInput, Input, inputs_of
from welotrope.core.ring.focus_shift import FocusShift, ShiftTrial
from welotrope.web.rooms.scale.rows import Row, RowsForm, built, columns_of, padded, read_rows

_STOPS_TRIED = 4


class ShiftForm(RowsForm):
    """Trials of focus shift as typed."""

    intent: str = ""
    stop: list[str] = []
    angle: list[str] = []

    @classmethod
    def of(cls, record: FocusShift) -> ShiftForm:
        """Fill the form from a record."""
        return cls.model_validate(columns_of(ShiftTrial, record.trials))

    @classmethod
    def blank(cls, stops: Sequence[float]) -> ShiftForm:
        """Return a form with two rows for each of the widest marked stops, in which only the ring is to be read."""
        rows = [f"{stop:g}" for stop in sorted(stops)[:_STOPS_TRIED] for _ in range(2)]
        return cls(stop=rows, angle=[""] * len(rows))

    @property
    def columns(self) -> tuple[Input, ...]:
        """What is asked for in a row."""
        return inputs_of(ShiftTrial)

    @property
    def rows(self) -> list[Row]:
        """Trials with blank rows after them."""
        return padded(self.rows_of(ShiftTrial), self.columns)

    def record(self, typed: FormInput) -> tuple[FocusShift | None, list[str]]:
        """Return the record, or None with the sentences of what is wrong."""
        names = [one.name for one in self.columns]
        tried = [row for row in self.rows_of(ShiftTrial) if row[names.index("angle")]]  # a stop alone is not tried yet
        trials, problems = read_rows(ShiftTrial, tried, "Trial", typed)
        return built(lambda: FocusShift(tuple(trials)), problems)
