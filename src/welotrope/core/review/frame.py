"""Frames and outings: what was set when a picture was taken, and what it showed."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass, field

from welotrope.core.errors import Field, OutOfRangeError
from welotrope.core.inputs import Input, asks, whole_input
from welotrope.core.kit.setup import Setup
from welotrope.core.plan.setting import ring_setting
from welotrope.core.review.outcomes import Outcome
from welotrope.core.units.shutter import format_shutter, parse_shutter
from welotrope.core.units.text import check_text

NOTE_LIMIT = 500
NOTE = Input(
    name="note", field=Field("note", "note"), label="Note", optional=True, empty="", write=str, group="note",
    read=lambda text, _typed: check_text(text, "note", NOTE_LIMIT, lines=True),
)  # fmt: skip
SHUTTER = Input(
    name="shutter", field=Field("shutter", "shutter"), label="Shutter", hint="1/250, 0.5 s", optional=True,
    read=lambda text, _typed: parse_shutter(text), write=lambda value: "" if value is None else format_shutter(value),
)  # fmt: skip
ISO = whole_input("iso", Field("iso", "ISO"), "ISO", 1, 10_000_000)
FILM_FRAME = Input(
    name="film_frame", field=Field("film_frame", "film frame"), label="Film frame", hint="12, 12A", optional=True,
    empty="", read=lambda text, _typed: _short(text), write=str, group="film",
)  # fmt: skip


def _short(text: str) -> str:
    if len(text) > 12:
        raise OutOfRangeError("film frame", text, "that is too long", "Write a number such as 12 or 12A")
    return check_text(text, "film frame", 12)


@dataclass(frozen=True, kw_only=True)
class FrameExtras:
    """What a frame may carry besides its setting."""

    note: str = field(default="", metadata=asks(NOTE))
    shutter_s: float | None = field(default=None, metadata=asks(SHUTTER))
    iso: int | None = field(default=None, metadata=asks(ISO))
    film_frame: str = field(default="", metadata=asks(FILM_FRAME))


@dataclass(frozen=True, kw_only=True)
class NewFrame(FrameExtras):
    """What is known when a frame is logged; lengths in mm, ``shutter_s`` in seconds, time local and naive."""

    setup_id: int | None
    body_name: str
    lens_name: str
    focal_mm: float
    blur_mm: float
    stop: float
    distance_mm: float
    angle_deg: float
    near_mm: float
    far_mm: float
    taken_at: dt.datetime
    preset_name: str = ""


@dataclass(frozen=True)
class Frame(NewFrame):
    """A stored frame."""

    id: int = 0
    outing_id: int = 0
    outcome: Outcome | None = None


@dataclass(frozen=True)
class Outing:
    """An outing with the number of its frames."""

    id: int
    name: str
    day: dt.date
    frames: int


def frame_at(setup_id: int, setup: Setup, angle_deg: float, stop: float, taken_at: dt.datetime) -> NewFrame:
    """Return the frame a set-up takes with its ring at ``angle_deg`` and the lens at ``stop``."""
    at = ring_setting(setup, angle_deg, stop)
    return NewFrame(
        setup_id=setup_id, body_name=setup.body.name, lens_name=setup.lens.name, focal_mm=setup.lens.focal_mm,
        blur_mm=setup.blur_mm, stop=stop, distance_mm=at.focus_mm, angle_deg=angle_deg, near_mm=at.near_mm,
        far_mm=at.far_mm, taken_at=taken_at,
    )  # fmt: skip
