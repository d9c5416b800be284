"""The form of a frame."""

from __future__ import annotations

import datetime as dt
from dataclasses import replace
from typing import Any

from welotrope.core.errors import OutOfRangeError, UnreadableError
from welotrope.core.inputs import Input, Reader, Typed, attributes_of, inputs_of, take_all
from welotrope.core.kit.setup import Setup
from welotrope.core.review.frame import Frame, FrameExtras, NewFrame, frame_at
from welotrope.core.units.distance import Unit, parse_distance, write_distance
from welotrope.core.units.stops import parse_stop
from welotrope.core.units.text import cleaned
from welotrope.store.queries.kit import StoredSetup
from welotrope.web.forms.record_form import record_form
from welotrope.web.forms.text_form import TextForm

PRESET_LIMIT = 80  # a name and the stop it was changed to


class _Setting(TextForm):
    """What was set, and when."""

    at: str = ""
    stop: str = ""
    preset: str = ""
    outing: str = ""
    taken_at: str = ""


class FrameForm(record_form(FrameExtras), _Setting):  # type: ignore[misc]
    """Fields of a frame as typed: what was set, and what it may carry besides."""

    def extras(self, reader: Reader) -> dict[str, Any]:
        """Read the optional fields."""
        return take_all(FrameExtras, reader, Typed(texts=self.model_dump()))

    def asked(self, name: str) -> Input:
        """Return what an optional field asks for."""
        return next(one for one in inputs_of(FrameExtras) if one.name == name)

    @classmethod
    def of(cls, frame: Frame) -> FrameForm:
        """Fill the form from a frame."""
        extras: dict[str, Any] = {one.name: one.write(getattr(frame, name)) for name, one in attributes_of(FrameExtras)}
        return cls(
            **extras, at=write_distance(round(frame.distance_mm, 1)), stop=f"{frame.stop:g}",
            taken_at=frame.taken_at.isoformat(timespec="minutes"),
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
        return replace(changed, taken_at=taken, **extras), {}

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
        return replace(frame, preset_name=cleaned(self.preset)[:PRESET_LIMIT], **extras), {}


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
