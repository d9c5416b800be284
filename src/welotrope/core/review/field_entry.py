"""What is written down in the field, away from the data: frames, marks, ticks, and what was taken back.

Every entry has a key made where it was written, by which it is taken over once, however often it is sent.
"""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from welotrope.core.review.outcomes import Outcome


@dataclass(frozen=True, kw_only=True)
class FieldFrame:
    """A frame taken: the set-up by key and by name, its setting as it was read there, and the outing it is meant for.

    Parameters
    ----------
    key, at
        Its own key, and the local time.
    setup_id, zoom_mm, outing_id
        Set-up, marked focal length (None for a fixed one) and outing; None when there is none yet.
    body_name, lens_name, focal_mm, blur_mm
        What the frame keeps when the set-up is gone meanwhile; mm.
    stop, distance_mm, angle_deg, near_mm, far_mm
        The setting: f-number, mm from the film plane (may be infinite) and ring degrees.
    preset_name, note, film_frame
        As of any frame; empty for none.
    outcome
        What it showed, when that was known at once.
    """

    key: str
    at: dt.datetime
    setup_id: int
    zoom_mm: float | None = None
    outing_id: int | None = None
    body_name: str
    lens_name: str
    focal_mm: float
    blur_mm: float
    stop: float
    distance_mm: float
    angle_deg: float
    near_mm: float
    far_mm: float
    preset_name: str = ""
    note: str = ""
    film_frame: str = ""
    outcome: Outcome | None = None


@dataclass(frozen=True, kw_only=True)
class FieldUndo:
    """A frame was logged by mistake: ``of`` is its key."""

    key: str
    at: dt.datetime
    of: str


@dataclass(frozen=True, kw_only=True)
class FieldMark:
    """What a frame showed, by its key; None takes the mark off."""

    key: str
    at: dt.datetime
    of: str
    outcome: Outcome | None


@dataclass(frozen=True, kw_only=True)
class FieldTick:
    """A line of a set-up's sheet ticked off, or not, for an outing (0 without one)."""

    key: str
    at: dt.datetime
    setup_id: int
    outing_id: int
    line: str
    done: bool


FieldEntry = FieldFrame | FieldUndo | FieldMark | FieldTick
_FRAMES_FIRST = {FieldFrame: 0, FieldUndo: 1, FieldMark: 2, FieldTick: 2}


def in_order(entries: list[FieldEntry]) -> list[FieldEntry]:
    """Return entries in the order they make sense in, whatever order they came in: frames first, each by its time.

    Parameters
    ----------
    entries
        Entries of the field.
    """
    return sorted(entries, key=lambda entry: (_FRAMES_FIRST[type(entry)], entry.at))


def clock_offset(said: dt.datetime, true: dt.datetime, *, slack_s: float = 90.0) -> dt.timedelta:
    """Return what puts the times of a clock right, nothing within ``slack_s`` seconds, to the minute.

    Parameters
    ----------
    said
        Time that the device gave.
    true
        Time that it was.
    slack_s
        Difference in s that counts as none.
    """
    off = (true - said).total_seconds()
    return dt.timedelta() if abs(off) <= slack_s else dt.timedelta(minutes=round(off / 60))
