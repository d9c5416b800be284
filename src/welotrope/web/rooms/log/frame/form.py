"""The form of a frame."""

from __future__ import annotations

import datetime as dt
from dataclasses import asdict, dataclass, replace
from typing import Any

from welotrope.core.errors import OutOfRangeError, UnreadableError
from welotrope.core.inputs import Reader
from welotrope.core.kit.setup import Setup
from welotrope.core.review.frame import Frame, NewFrame, frame_at
from welotrope.core.units.distance import Unit, parse_distance, write_distance
from welotrope.core.units.numbers import whole_number
from welotrope.core.units.shutter import format_shutter, parse_shutter
from welotrope.core.units.stops import parse_stop
from welotrope.core.units.text import check_text, cleaned
from welotrope.store.queries.kit import StoredSetup
from welotrope.web.forms.text_form import TextForm

NOTE_LIMIT = 500
PRESET_LIMIT = 80  # a name and the stop it was changed to


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

    @classmethod
    def of(cls, frame: Frame) -> FrameForm:
        """Fill the form from a frame."""
        return cls(
            at=write_distance(round(frame.distance_mm, 1)), stop=f"{frame.stop:g}",
            taken_at=frame.taken_at.isoformat(timespec="minutes"), note=frame.note,
            shutter="" if frame.shutter_s is None else format_shutter(frame.shutter_s),
            iso="" if frame.iso is None else str(frame.iso), film_frame=frame.film_frame,
        )  # fmt: skip

    def change(self, frame: Frame, stored: StoredSetup | None, bare: Unit) -> tuple[Frame | None, dict[str, str]]:
        """Return the frame as changed, or None with an error sentence per field.

        What was set is worked out again only where it was changed; without its set-up (``stored`` None) it stays.
        """
        reader = Reader()
        taken = frame.taken_at
        if self.taken_at and self.taken_at != frame.taken_at.isoformat(timespec="minutes"):
            taken = reader.take("taken_at", lambda: _moment(self.taken_at, taken), taken)
        was = FrameForm.of(frame)
        changed = frame
        if stored is not None and (self.at, self.stop) != (was.at, was.stop):
            stop = reader.take("stop", lambda: parse_stop(self.stop), frame.stop)
            angle = reader.take("at", lambda: _angle(stored.setup, self.at, stop, bare), frame.angle_deg)
            changed = replace(changed, **_setting_of(frame_at(stored.id, stored.setup, angle, stop, taken)))
        extras = self.extras(reader)
        if reader.errors:
            return None, reader.errors
        return replace(changed, taken_at=taken, **asdict(extras)), {}

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
        return replace(frame, preset_name=cleaned(self.preset)[:PRESET_LIMIT], **asdict(extras)), {}


_SETTING = ("stop", "distance_mm", "angle_deg", "near_mm", "far_mm", "blur_mm")


def _setting_of(frame: NewFrame) -> dict[str, Any]:
    """Return what a frame's setting consists of."""
    return {name: getattr(frame, name) for name in _SETTING}


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


def _note(text: str) -> str:
    return check_text(text, "note", NOTE_LIMIT, lines=True)


def _short(text: str) -> str:
    if len(text) > 12:
        raise OutOfRangeError("film frame", text, "that is too long", "Write a number such as 12 or 12A")
    return check_text(text, "film frame", 12)
