"""Frames and outings: what was set when a picture was taken, and what it showed."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from welotrope.core.kit.setup import Setup
from welotrope.core.plan.setting import ring_setting
from welotrope.core.review.outcomes import Outcome


@dataclass(frozen=True)
class NewFrame:
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
    note: str = ""
    shutter_s: float | None = None
    iso: int | None = None
    film_frame: str = ""


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
        setup_id, setup.body.name, setup.lens.name, setup.lens.focal_mm, setup.blur_mm,
        stop, at.focus_mm, angle_deg, at.near_mm, at.far_mm, taken_at,
    )  # fmt: skip
