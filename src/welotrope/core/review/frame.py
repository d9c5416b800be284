"""Frames and outings: what was set when a picture was taken, and what it showed."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from welotrope.core.kit.setup import Setup
from welotrope.core.plan.setting import ring_setting
from welotrope.core.review.outcomes import Outcome


@dataclass(frozen=True, kw_only=True)
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
        setup_id=setup_id, body_name=setup.body.name, lens_name=setup.lens.name, focal_mm=setup.lens.focal_mm,
        blur_mm=setup.blur_mm, stop=stop, distance_mm=at.focus_mm, angle_deg=angle_deg, near_mm=at.near_mm,
        far_mm=at.far_mm, taken_at=taken_at,
    )  # fmt: skip
