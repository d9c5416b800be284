"""Which pictures and frames a page is about, and how they lie along the time they were taken."""

from __future__ import annotations

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass
from urllib.parse import urlencode

from welotrope.core.picture.matching import Moment, seconds_of
from welotrope.core.picture.picture import Picture
from welotrope.core.review.frame import Frame
from welotrope.core.review.search import FrameSearch
from welotrope.core.units.text import format_date
from welotrope.store.queries import log, pictures, rolls
from welotrope.store.unit_of_work import UnitOfWork
from welotrope.web.forms import key_of

MOST = 2000
WIDTH = 1000.0
_MARGIN = 12.0
_LEAST_S = 600.0
MOST_SHOWN = 400


@dataclass(frozen=True, kw_only=True)
class Scope:
    """Pictures with the frames they may belong to, as the address says which."""

    outing_id: int | None = None
    roll_id: int | None = None
    batch: str = ""
    pictures: tuple[Picture, ...] = ()
    frames: tuple[Frame, ...] = ()

    @property
    def query(self) -> str:
        """Return it as an address says it."""
        said = {"outing": self.outing_id, "roll": self.roll_id, "batch": self.batch}
        return urlencode({name: value for name, value in said.items() if value})

    @property
    def cameras(self) -> tuple[str, ...]:
        """Return the cameras its pictures name; '' for those that name none."""
        return tuple(dict.fromkeys(one.exif.camera for one in self.pictures if one.taken_at))

    def of_camera(self, camera: str) -> list[Picture]:
        """Return the pictures of a camera whose time is known."""
        return [one for one in self.pictures if one.taken_at is not None and one.exif.camera == camera]

    def dated_frames(self) -> list[Moment]:
        """Return the frames whose time is known, as moments."""
        return [Moment(one.id, seconds_of(one.taken_at)) for one in self.frames if not one.undated]


def read_scope(uow: UnitOfWork, outing: str, roll: str, batch: str) -> Scope:
    """Return the scope of an address; without any it is that of the newest outing."""
    roll_id, outing_id = key_of(roll), key_of(outing)
    if roll_id is not None:
        rolls.get_roll(uow, roll_id)
        frames = tuple(rolls.frames_on(uow, roll_id))
        held = _of_frames(uow, frames)
        loose = pictures.list_pictures(uow, frames[0].outing_id if frames else None, limit=MOST)
        shown = {one.id: one for one in (*held, *(one for one in loose if one.frame_id is None))}
        return Scope(
            roll_id=roll_id,
            outing_id=frames[0].outing_id if frames else None,
            frames=frames,
            pictures=tuple(shown.values()),
        )
    batch = batch[:40]
    if batch:
        found = tuple(pictures.list_pictures(uow, None, batch=batch, limit=MOST))
        outing_id = next((one.outing_id for one in found if one.outing_id), outing_id)
        return Scope(outing_id=outing_id, batch=batch, pictures=found, frames=_frames(uow, outing_id))
    if outing_id is None and outing != "none":
        outings = log.list_outings(uow)
        outing_id = outings[0].id if outings else None
    if outing_id is not None:
        log.get_outing(uow, outing_id)
    found = tuple(pictures.list_pictures(uow, outing_id, limit=MOST))
    return Scope(outing_id=outing_id, pictures=found, frames=_frames(uow, outing_id))


def _frames(uow: UnitOfWork, outing_id: int | None) -> tuple[Frame, ...]:
    if outing_id is None:
        return ()
    return tuple(reversed(log.page_of_frames(uow, outing_id, FrameSearch(), None, MOST)))


def _of_frames(uow: UnitOfWork, frames: tuple[Frame, ...]) -> list[Picture]:
    held = pictures.pictures_of_frames(uow, [frame.id for frame in frames])
    return [one for frame in frames for one in held.get(frame.id, [])]


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
