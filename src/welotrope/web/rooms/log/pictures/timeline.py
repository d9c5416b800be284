"""Frames and pictures along the time they were taken, with a line between those that belong together."""

from __future__ import annotations

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass

from welotrope.core.picture.picture import Picture
from welotrope.core.review.frame import Frame
from welotrope.core.units.text import format_date

WIDTH = 1000.0
_MARGIN = 12.0
_LEAST_S = 600.0
MOST_SHOWN = 400


@dataclass(frozen=True, kw_only=True)
class TimelineMark:
    """A frame or picture on the timeline: its key, place and words, where its partner stands, whether it has none."""

    key: int
    x: float
    words: str
    to_x: float | None = None
    loose: bool = False


@dataclass(frozen=True, kw_only=True)
class Timeline:
    """Both rows with the hours below them."""

    frames: tuple[TimelineMark, ...]
    pictures: tuple[TimelineMark, ...]
    hours: tuple[tuple[float, str], ...]
    begins: str
    ends: str


def timeline(frames: Sequence[Frame], pictures: Sequence[Picture]) -> Timeline | None:
    """Return the timeline; None where there is nothing to show, or too much to tell apart."""
    times = [frame.taken_at for frame in frames] + [one.when for one in pictures if one.when is not None]
    if not times or len(times) > MOST_SHOWN:
        return None
    first, last = min(times), max(times)
    length = max((last - first).total_seconds(), _LEAST_S)

    def place(moment: dt.datetime) -> float:
        return round(_MARGIN + (moment - first).total_seconds() / length * (WIDTH - 2 * _MARGIN), 1)

    at = {frame.id: place(frame.taken_at) for frame in frames}
    shown = tuple(
        TimelineMark(key=one.id, x=place(one.when), words=f"{one.name}, {one.when:%H:%M:%S}",
        to_x=at.get(one.frame_id or 0),
             loose=one.frame_id is None)
        for one in pictures if one.when is not None
    )  # fmt: skip
    partners = {one.frame_id: place(one.when) for one in pictures if one.when is not None and one.frame_id}
    taken = {one.frame_id for one in pictures}
    return Timeline(

               frames=tuple(
            TimelineMark(key=one.id, x=at[one.id], words=f"{one.lens_name}, {one.taken_at:%H:%M}",
                 to_x=partners.get(one.id),
                 loose=one.id not in taken)
            for one in frames
        ),
        pictures=shown, hours=tuple((place(hour), f"{hour:%H:%M}") for hour in _hours(first, length)),
        begins=f"{format_date(first, '%-d %B %Y, %H:%M')}", ends=f"{format_date(last, '%-d %B, %H:%M')}",
    )  # fmt: skip


def _hours(first: dt.datetime, length_s: float) -> list[dt.datetime]:
    """Return whole hours, or longer steps, within a length of time: ten at most."""
    steps = (900, 1800, 3600, 7200, 14400, 43200, 86400, 604800, 2592000, 31536000)
    step = next((one for one in steps if length_s / one <= 10), steps[-1])
    day = first.replace(hour=0, minute=0, second=0)
    begun = int((first - day).total_seconds() // step) + 1
    found = [day + dt.timedelta(seconds=step * (begun + index)) for index in range(11)]
    return [one for one in found if (one - first).total_seconds() <= length_s]
