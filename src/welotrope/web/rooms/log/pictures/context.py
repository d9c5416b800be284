"""What the page of pictures shows."""

from __future__ import annotations

import secrets
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from welotrope.core.picture.matching import ClockOffset, Moment, clock_offset_of, format_offset, seconds_of
from welotrope.core.picture.picture import Picture
from welotrope.core.review.frame import Frame, Outing
from welotrope.core.units.distance import Unit, format_distance
from welotrope.core.units.exposure import format_stop
from welotrope.core.units.text import format_date
from welotrope.store.queries import log, rolls
from welotrope.store.queries import pictures as picture_imports
from welotrope.store.queries.pictures import PictureImport
from welotrope.store.unit_of_work import UnitOfWork
from welotrope.web.rooms.log.frame.context import Options, roll_options
from welotrope.web.rooms.log.frame.form import outing_options
from welotrope.web.rooms.log.pictures.scope import Scope
from welotrope.web.rooms.log.pictures.timeline import Timeline, timeline

_RIGHT_S = 5.0
MOST_LISTED = 300


@dataclass(frozen=True, kw_only=True)
class Clock:
    """A camera's clock: how it stands now, and what would put it right when that can be told."""

    camera: str
    pictures: int
    now: str
    found: ClockOffset | None
    would: str


@dataclass(frozen=True)
class ClockPage:
    """The clock that is photographed; the computer's own takes over where scripts run."""

    time: str
    day: str


@dataclass(frozen=True)
class PictureLine:
    """A picture with what it was taken with, as far as its file says."""

    picture: Picture
    words: str


@dataclass(frozen=True, kw_only=True)
class PicturesPage:
    """Pictures of a scope: brought in, clocks put right, matched, and left over."""

    scope: Scope
    outing: Outing | None
    matched: int
    loose: int
    free_frames: int
    clocks: tuple[Clock, ...]
    timeline: Timeline | None
    lines: tuple[PictureLine, ...]
    more: int
    frames: Options
    outings: Options
    rolls: Options
    imports: list[PictureImport]
    new_batch: str
    folder: str = ""
    errors: Mapping[str, str] = field(default_factory=dict)
    at_computer: bool = True


@dataclass(frozen=True, kw_only=True)
class PictureLists:
    """What pictures can be put to, newest first, and what was read in last."""

    outings: Sequence[Outing]
    rolls: Options
    imports: list[PictureImport]


def load_lists(uow: UnitOfWork) -> PictureLists:
    """Read what pictures can be put to."""
    return PictureLists(
        outings=log.list_outings(uow), rolls=roll_options(rolls.roll_names(uow)),
        imports=picture_imports.list_imports(uow),
    )  # fmt: skip


def pictures_page(
    lists: PictureLists,
    scope: Scope,
    unit: Unit,
    *,
    at_computer: bool,
    folder: str = "",
    errors: Mapping[str, str] | None = None,
) -> PicturesPage:
    """Return the page of pictures."""
    outings = lists.outings
    matched = sum(one.frame_id is not None for one in scope.pictures)
    taken = {one.frame_id for one in scope.pictures}
    return PicturesPage(
        scope=scope, outing=next((one for one in outings if one.id == scope.outing_id), None), matched=matched,
        loose=len(scope.pictures) - matched, free_frames=sum(frame.id not in taken for frame in scope.frames),
        clocks=tuple(_clock(scope, camera) for camera in scope.cameras),
        timeline=timeline(scope.frames, scope.pictures),
        lines=tuple(PictureLine(one, _words(one)) for one in scope.pictures[:MOST_LISTED]),
        more=max(len(scope.pictures) - MOST_LISTED, 0),
        frames=tuple((str(one.id), frame_option(one, unit)) for one in scope.frames),
        outings=outing_options(outings[:40]),
        rolls=lists.rolls, imports=lists.imports,
        new_batch=secrets.token_hex(8), folder=folder, errors=errors or {}, at_computer=at_computer,
    )  # fmt: skip


def frame_option(frame: Frame, unit: Unit) -> str:
    """Return a frame as it is chosen: number or time, lens and setting."""
    number = f"{frame.film_frame}  " if frame.film_frame else ""
    at = "" if frame.distance_mm is None else f", {format_distance(frame.distance_mm, unit)}"
    stop = "" if frame.stop is None else f" {format_stop(frame.stop)}"
    return f"{number}{frame.taken_at:%H:%M} {frame.lens_name or 'lens not known'}{at}{stop}"


def _clock(scope: Scope, camera: str) -> Clock:
    taken = scope.of_camera(camera)
    offsets = {one.clock_s for one in taken}
    now = format_offset(next(iter(offsets))) if len(offsets) == 1 else "put right by different amounts"
    written = [Moment(one.id, seconds_of(one.taken_at)) for one in taken if one.taken_at is not None]
    found = clock_offset_of(written, scope.dated_frames())
    told = found is not None and found.believable and any(abs(found.seconds - one) > _RIGHT_S for one in offsets)
    return Clock(
        camera=camera, pictures=len(taken), now=now, found=found if told else None,
        would=format_offset(found.seconds) if found is not None and told else "",
    )  # fmt: skip


def _words(one: Picture) -> str:
    exif = one.exif
    parts = (
        "no time in it" if one.when is None else f"{format_date(one.when, '%-d %b, %H:%M:%S')}", exif.camera, exif.lens,
        "" if exif.focal_mm is None else f"{exif.focal_mm:g} mm", "" if exif.stop is None else format_stop(exif.stop),
        "" if exif.iso is None else f"ISO {exif.iso}", f"{one.width_px} × {one.height_px}",
    )  # fmt: skip
    return ", ".join(part for part in parts if part)
