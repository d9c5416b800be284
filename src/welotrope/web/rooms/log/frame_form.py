"""The form of a frame."""

from __future__ import annotations

import datetime as dt
import math
from collections.abc import Iterable
from dataclasses import replace

from welotrope.core.inputs import FormInput, Input, Reader, attributes_of, inputs_of, take_all
from welotrope.core.json_values import JsonObject
from welotrope.core.kit.setup import Setup
from welotrope.core.review.frame import Frame, FrameExtras, NewFrame, Outing, frame_at
from welotrope.core.review.outcomes import Outcome
from welotrope.core.review.roll import next_film_frame, read_time
from welotrope.core.units.distance import Unit, format_distance, parse_distance
from welotrope.core.units.exposure import parse_stop
from welotrope.core.units.text import cleaned, format_date
from welotrope.store.queries.kit import StoredSetup
from welotrope.web.forms import RecordForm, TextForm, asks_for, key_of

PRESET_LIMIT = 80  # a name and the stop it was changed to
# What goes on from one frame to the next until it is changed.
_GOES_ON = ("aid", "technique", "support", "light")


class _Setting(TextForm):
    """What was set, and when; which set-up, roll and outing it belongs to, and what it showed."""

    at: str = ""
    exact: str = ""  # the distance that ``at`` says in round figures, mm
    stop: str = ""
    preset: str = ""
    outing: str = ""
    taken_at: str = ""
    setup: str = ""
    roll: str = ""
    outcome: str = ""


@asks_for(FrameExtras)
class FrameForm(RecordForm, _Setting):
    """Fields of a frame as typed: what was set, and what it may carry besides."""

    aid: str = ""  # of the extras

    def extras(self, reader: Reader, bare: Unit) -> JsonObject:
        """Read the optional fields."""
        return take_all(FrameExtras, reader, FormInput(texts=self.model_dump(), bare=bare))

    def asked(self, name: str) -> Input:
        """Return what an optional field asks for."""
        return next(one for one in inputs_of(FrameExtras) if one.name == name)

    @classmethod
    def of_frame(cls, frame: Frame, unit: Unit) -> FrameForm:
        """Fill the form from a frame, its distance as one says it in a unit."""
        extras: JsonObject = {one.name: one.write(getattr(frame, name)) for name, one in attributes_of(FrameExtras)}
        return cls(
            **extras, at="" if frame.distance_mm is None else format_distance(frame.distance_mm, unit),
            stop="" if frame.stop is None else f"{frame.stop:g}", preset=frame.preset_name,
            taken_at=frame.taken_at.isoformat(timespec="minutes"), setup=str(frame.setup_id or ""),
            roll=str(frame.roll_id or ""), outing=str(frame.outing_id),
            outcome=frame.outcome.value if frame.outcome else "",
        )  # fmt: skip

    @classmethod
    def next_of(cls, last: Frame | None, **known: str) -> FrameForm:
        """Fill the form for the next frame: what goes on does so, the number of the film frame counts up."""
        if last is None:
            return cls(**known)
        carried = {name: getattr(last, name) for name in _GOES_ON}
        film = {"film_frame": next_film_frame(last.film_frame), "roll": str(last.roll_id or "")}
        return cls(**{**carried, **film, "iso": str(last.iso or ""), **known})

    def change(self, frame: Frame, stored: StoredSetup | None, bare: Unit) -> tuple[Frame | None, dict[str, str]]:
        """Return the frame as changed, or None with an error sentence per field.

        What was set is worked out again only where it was changed; without a set-up (``stored`` None) it stays.
        """
        reader = Reader()
        taken = frame.taken_at
        if self.taken_at and self.taken_at != frame.taken_at.isoformat(timespec="minutes"):
            taken = reader.take("taken_at", lambda: read_time(self.taken_at, "time"), taken)
        was = FrameForm.of_frame(frame, bare)
        changed = frame
        wholly = (self.at, self.stop, self.setup) != (was.at, was.stop, was.setup)
        if stored is not None and wholly and (self.at or self.stop or frame.setup_id is not None):
            stop = reader.take("stop", lambda: parse_stop(self.stop), 5.6)
            angle = reader.take("at", lambda: _angle(stored.setup, self.at, stop, bare), 0.0)
            changed = replace(changed, **_setting_of(frame_at(stored.id, stored.setup, angle, stop, taken)))
        extras = self.extras(reader, bare)
        if reader.errors:
            return None, reader.errors
        outcome = Outcome(self.outcome) if self.outcome in set(Outcome) else None
        dated = taken != frame.taken_at or not frame.undated
        return replace(
            changed, taken_at=taken, undated=not dated, roll_id=key_of(self.roll), outcome=outcome,
            outing_id=key_of(self.outing) or frame.outing_id, **extras,
        ), {}  # fmt: skip

    def frame(self, stored: StoredSetup, now: dt.datetime, bare: Unit) -> tuple[NewFrame | None, dict[str, str]]:
        """Return the frame, or None with an error sentence per field."""
        reader = Reader()
        setup = stored.setup
        stop = reader.take("stop", lambda: parse_stop(self.stop), 5.6)
        angle = reader.take("at", lambda: _angle(setup, self._said_exactly(bare), stop, bare), 0.0)
        taken = reader.take("taken_at", lambda: read_time(self.taken_at, "time"), now) if self.taken_at else now
        extras = self.extras(reader, bare)
        if reader.errors:
            return None, reader.errors
        frame = frame_at(stored.id, setup, angle, stop, taken)
        return replace(
            frame, preset_name=cleaned(self.preset)[:PRESET_LIMIT], roll_id=key_of(self.roll), **extras
        ), {}  # fmt: skip

    def _said_exactly(self, bare: Unit) -> str:
        """Return the distance as it stood on the ring, where what is said is still that in round figures."""
        try:
            mm = float(self.exact)
        except ValueError:
            return self.at
        return f"{mm!r} mm" if math.isfinite(mm) and mm > 0 and format_distance(mm, bare) == self.at else self.at

    @property
    def details(self) -> bool:
        """Whether anything of this frame alone stands in the part that is folded away."""
        return any(getattr(self, name) for name in ("subject", "spot", "believed", "tags"))

    @property
    def goes_on(self) -> str:
        """What goes on from the frame before, in words."""
        inputs = {one.name: dict(one.options) for one in inputs_of(FrameExtras)}
        return ", ".join(inputs[name].get(said, said) for name in _GOES_ON if (said := getattr(self, name)))


_SETTING = (
    "setup_id", "body_name", "lens_name", "focal_mm", "stop", "distance_mm", "angle_deg", "near_mm", "far_mm",
    "blur_mm",
)  # fmt: skip


def _setting_of(frame: NewFrame) -> JsonObject:
    """Return what a frame's setting consists of."""
    return {name: getattr(frame, name) for name in _SETTING}


def _angle(setup: Setup, text: str, stop: float, bare: Unit) -> float:
    ring = setup.ring(stop)
    distance = ring.check_reach(parse_distance(text, field="set distance", bare=bare), field="set distance", read=text)
    return ring.clamp(ring.angle_at_distance(distance))


def outing_options(outings: Iterable[Outing]) -> tuple[tuple[str, str], ...]:
    """Return outings to choose from: key and words."""
    return tuple((str(one.id), f"{one.name}, {format_date(one.day, '%-d %b %Y')}") for one in outings)
