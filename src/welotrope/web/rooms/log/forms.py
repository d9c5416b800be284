"""The forms of a frame and of an outing."""

from __future__ import annotations

import datetime as dt
from dataclasses import asdict, dataclass, replace

from welotrope.core.errors import OutOfRangeError, UnreadableError
from welotrope.core.kit.setup import Setup
from welotrope.core.units.distance import Unit, parse_distance
from welotrope.core.units.shutter import parse_shutter
from welotrope.core.units.stops import parse_stop
from welotrope.core.units.text import check_text, cleaned
from welotrope.store.queries.kit import StoredSetup
from welotrope.store.queries.log import NewFrame, frame_at
from welotrope.web.forms import Reader, TextForm, required_name, whole_number

NOTE_LIMIT = 500


@dataclass(frozen=True)
class FrameExtras:
    """What a frame may carry besides the setting."""

    note: str
    shutter_s: float | None
    iso: int | None
    film_frame: str


class FrameForm(TextForm):
    """Fields of a frame as typed."""

    at: str = ""
    stop: str = ""
    preset: str = ""
    outing: str = ""
    taken_at: str = ""
    note: str = ""
    shutter: str = ""
    iso: str = ""
    film_frame: str = ""

    def extras(self, reader: Reader) -> FrameExtras:
        """Read the optional fields."""
        return FrameExtras(
            reader.take("note", lambda: _note(self.note), ""),
            reader.optional("shutter", self.shutter, parse_shutter),
            reader.optional("iso", self.iso, lambda text: whole_number(text, "ISO", 1, 10_000_000)),
            reader.take("film_frame", lambda: _short(self.film_frame), ""),
        )

    def frame(self, stored: StoredSetup, now: dt.datetime, bare: Unit) -> tuple[NewFrame | None, dict[str, str]]:
        """Return the frame, or None with an error sentence per field."""
        reader = Reader()
        setup = stored.setup
        stop = reader.take("stop", lambda: parse_stop(self.stop), 5.6)
        angle = reader.take("at", lambda: _angle(setup, self.at, stop, bare), 0.0)
        taken = reader.take("taken_at", lambda: _moment(self.taken_at, now), now)
        extras = self.extras(reader)
        if reader.errors:
            return None, reader.errors
        frame = frame_at(stored.id, setup, angle, stop, taken)
        return replace(frame, preset_name=cleaned(self.preset)[:40], **asdict(extras)), {}


class OutingForm(TextForm):
    """Fields of an outing as typed."""

    name: str = ""
    day: str = ""

    def values(self, today: dt.date) -> tuple[str, dt.date, dict[str, str]]:
        """Return name and day, and an error sentence per field."""
        reader = Reader()
        name = reader.take("name", lambda: required_name(self.name, "outing name", 80), "")
        day = reader.take("day", lambda: _day(self.day, today), today)
        return name, day, reader.errors


def _angle(setup: Setup, text: str, stop: float, bare: Unit) -> float:
    ring = setup.ring(stop)
    distance = ring.check_reach(parse_distance(text, field="set distance", bare=bare), field="set distance", read=text)
    return ring.clamp(ring.angle_at_distance(distance))


def _moment(text: str, now: dt.datetime) -> dt.datetime:
    if not text:
        return now
    try:
        moment = dt.datetime.fromisoformat(text)
    except ValueError:
        raise UnreadableError("time", text, "that is not a date and time", "Write it like 2026-03-14 15:30") from None
    if moment.tzinfo is not None or not 1900 <= moment.year <= 2200:
        raise OutOfRangeError("time", text, "out of range", "Write the local time, like 2026-03-14 15:30")
    return moment


def _day(text: str, today: dt.date) -> dt.date:
    try:
        day = dt.date.fromisoformat(text) if text else today
    except ValueError:
        raise UnreadableError("day", text, "that is not a date", "Write it like 2026-03-14") from None
    if not 1900 <= day.year <= 2200:
        raise OutOfRangeError("day", text, "out of range", "Write it like 2026-03-14")
    return day


def _note(text: str) -> str:
    return check_text(text, "note", NOTE_LIMIT, lines=True)


def _short(text: str) -> str:
    if len(text) > 12:
        raise OutOfRangeError("film frame", text, "that is too long", "Write a number such as 12 or 12A")
    return check_text(text, "film frame", 12)
