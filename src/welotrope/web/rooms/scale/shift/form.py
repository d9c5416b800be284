"""Trials of focus shift as typed."""

from __future__ import annotations

from welotrope.core.ring.focus_shift import FocusShift, ShiftTrial
from welotrope.core.units.stops import format_stop, parse_stop
from welotrope.web.forms.text_form import TextForm
from welotrope.web.rooms.scale.rows import built, filled, padded, read_rows, required, ring_angle


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

        def trial(row: tuple[str, ...]) -> ShiftTrial:
            stop = parse_stop(required(row[0], "stop", "Write the stop, such as 2.8"))
            return ShiftTrial(stop, ring_angle(required(row[1], "ring", "Write where it was sharpest"), mm_per_degree))

        trials, problems = read_rows(filled(self.stop, self.angle), "Trial", trial)
        return built(lambda: FocusShift(tuple(trials)), problems)
