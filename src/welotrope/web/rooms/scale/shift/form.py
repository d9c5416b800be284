"""Trials of focus shift as typed."""

from __future__ import annotations

from welotrope.core.inputs import Input, Typed, inputs_of
from welotrope.core.ring.focus_shift import FocusShift, ShiftTrial
from welotrope.web.rooms.scale.rows import Row, RowsForm, built, columns_of, padded, read_rows


class ShiftForm(RowsForm):
    """Trials of focus shift as typed."""

    intent: str = ""
    stop: list[str] = []
    angle: list[str] = []

    @classmethod
    def of(cls, record: FocusShift) -> ShiftForm:
        """Fill the form from a record."""
        return cls.model_validate(columns_of(ShiftTrial, record.trials))

    @property
    def columns(self) -> tuple[Input, ...]:
        """What is asked for in a row."""
        return inputs_of(ShiftTrial)

    @property
    def rows(self) -> list[Row]:
        """Trials with blank rows after them."""
        return padded(self.rows_of(ShiftTrial), self.columns)

    def record(self, typed: Typed) -> tuple[FocusShift | None, list[str]]:
        """Return the record, or None with the sentences of what is wrong."""
        trials, problems = read_rows(ShiftTrial, self.rows_of(ShiftTrial), "Trial", typed)
        return built(lambda: FocusShift(tuple(trials)), problems)
