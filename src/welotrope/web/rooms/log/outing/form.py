"""The form of an outing."""

from __future__ import annotations

import datetime as dt

from welotrope.core.errors import OutOfRangeError, UnreadableError
from welotrope.core.inputs import Reader
from welotrope.web.forms.text_form import TextForm, required_name


class OutingForm(TextForm):
    """Fields of an outing as typed."""

    name: str = ""
    day: str = ""

    def values(self, today: dt.date) -> tuple[str, dt.date, dict[str, str]]:
        """Return name and day, and an error sentence per field."""
        reader = Reader()
        name = reader.take("name", lambda: required_name(self.name, "outing name", limit=80), "")
        day = reader.take("day", lambda: _day(self.day, today), today)
        return name, day, reader.errors


def _day(text: str, today: dt.date) -> dt.date:
    try:
        day = dt.date.fromisoformat(text) if text else today
    except ValueError:
        raise UnreadableError("day", text, "that is not a date", "Write it like 2026-03-14") from None
    if not 1900 <= day.year <= 2200:
        raise OutOfRangeError("day", text, "out of range", "Write it like 2026-03-14")
    return day
