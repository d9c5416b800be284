"""What is typed in: lines, and what holds for all of them."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass, field

from welotrope.core.errors import Field, UnreadableError
from welotrope.core.inputs import Group, Input, check_limits, field_spec, tick_input, whole_input
from welotrope.core.units.text import check_name
from welotrope.web.forms.record_form import record_form

_OUTING = Field("outing", "outing")


def _day(text: str) -> dt.date:
    try:
        return dt.date.fromisoformat(text.strip())
    except ValueError:
        raise UnreadableError("day", text, "that is not a date", "Write it like 2026-03-14") from None


def _time(text: str) -> dt.time:
    try:
        return dt.time.fromisoformat(text.strip().zfill(5))
    except ValueError:
        raise UnreadableError("begun", text, "that is not a time of day", "Write it like 14:30") from None


@dataclass(frozen=True, kw_only=True)
class LinesAsked:
    """What holds for all lines: the outing they go to, when it began, and how frames are numbered."""

    outing: str = field(
        metadata=field_spec(
            Input(
                name="outing", field=_OUTING, label="Outing", write=str,
                read=lambda text, _typed: check_name(text, _OUTING, limit=80),
            )
        )
    )  # fmt: skip
    day: dt.date = field(
        metadata=field_spec(
            Input(name="day", field=Field("day", "day"), label="Day", read=lambda text, _typed: _day(text), write=str)
        )
    )
    begun: dt.time = field(
        metadata=field_spec(
            Input(
                name="begun", field=Field("begun", "begun"), label="Begun at", usual="12:00", empty=dt.time(12),
                read=lambda text, _typed: _time(text),
                hint="a line without a time is one minute after the line before",
            )
        )
    )  # fmt: skip
    first: int = field(
        metadata=field_spec(
            whole_input("first", Field("first", "first number"), "First frame", 0, 9999, usual="1", empty=1)
        )
    )
    film: bool = field(metadata=field_spec(tick_input("film", "numbers are film frame numbers")))
    roll: str = field(
        metadata=field_spec(
            Input(
                name="roll", field=Field("roll", "roll"), label="Roll", optional=True, empty="", group=Group.ROLL,
                read=lambda text, _typed: text, write=str,
            )
        )
    )  # fmt: skip

    def __post_init__(self) -> None:
        check_limits(self)


LinesForm = record_form(LinesAsked)
