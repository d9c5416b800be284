"""Pictures: the page, what brings them in, and what puts them where they belong."""

from __future__ import annotations

import secrets
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Annotated

from fastapi import APIRouter, Query
from starlette.datastructures import FormData
from starlette.requests import Request
from starlette.responses import Response

from welotrope.core.errors import UnreadableError, WelotropeError
from welotrope.core.picture.matching import (
    ClockOffset,
    Moment,
    clock_offset_of,
    format_offset,
    match_by_order,
    match_by_time,
    natural_order,
    offset_between,
    seconds_of,
)
from welotrope.core.picture.picture import Picture
from welotrope.core.review.frame import Frame, NewFrame, Outing
from welotrope.core.review.roll import read_time
from welotrope.core.units.distance import Unit, format_distance
from welotrope.core.units.exposure import format_stop
from welotrope.core.units.text import format_date
from welotrope.store import outside
from welotrope.store.queries import log, pictures, rolls
from welotrope.store.queries import pictures as picture_imports
from welotrope.store.queries.pictures import PictureImport
from welotrope.store.unit_of_work import UnitOfWork
from welotrope.web.forms import key_of
from welotrope.web.request.context import CurrentContext, RequestContext, TypedForm, reading_context
from welotrope.web.request.folders import check_folder, taken_in
from welotrope.web.request.jobs import turn
from welotrope.web.request.limits import local_path
from welotrope.web.rooms.log.frame import Options, roll_options
from welotrope.web.rooms.log.frame_form import outing_options
from welotrope.web.rooms.log.picture_importing import ImportRequest, bring_in, files_in
from welotrope.web.rooms.log.picture_scope import Scope, Timeline, read_scope, timeline

_RIGHT_S = 5.0
MOST_LISTED = 300
PAGE = "log/pictures/page.html"


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


router = APIRouter()
Said = Annotated[str, Query(max_length=80)]


@router.get("/log/pictures")
def show_pictures(context: CurrentContext, *, outing: Said = "", roll: Said = "", batch: Said = "") -> Response:
    """Show the pictures of an outing, a roll or an import."""
    return _page(context, read_scope(context.uow, outing, roll, batch))


@router.get("/log/clock")
def show_clock(context: CurrentContext) -> Response:
    """Show a clock to be photographed."""
    now = context.now()
    return context.page("log/pictures/clock.html", ClockPage(f"{now:%H:%M:%S}", f"{format_date(now)}"))


@router.post("/log/pictures/folder")
def import_folder(request: Request, typed: TypedForm) -> Response:
    """Bring in the pictures of a folder on this computer, as long work."""
    said, outing = str(typed.get("folder", "")), str(typed.get("outing", ""))
    try:
        folder = check_folder(said)
        with request.app.state.heavy.enter():
            found, passed = files_in(folder)
        if not found:
            raise UnreadableError(
                "folder", said, "there is no picture in it", "Name one that holds JPEG, TIFF, PNG, WebP or raw"
            )
    except WelotropeError as error:
        with reading_context(request, typed=typed) as context:
            return _page(
                context, read_scope(context.uow, outing, "", ""), folder=said, errors={"folder": error.sentence}
            )
    outside.name_folder(request.app.state.database.folder, folder)
    order = ImportRequest(
        batch=secrets.token_hex(8), paths=found, keep=bool(typed.get("keep")), outing_id=key_of(outing)
    )
    return _begin(request, typed, order, str(folder), passed)


@router.post("/log/pictures/dropped")
def import_dropped(request: Request, typed: TypedForm) -> Response:
    """Bring in what was dropped on the page and has come, as long work."""
    batch = str(typed.get("batch", ""))
    found = taken_in(request.app.state.database.folder, batch)
    if not found:
        raise UnreadableError("pictures", batch, "none of them came", "Choose or drop them again")
    order = ImportRequest(
        batch=batch, paths=found, dropped=True, keep=bool(typed.get("keep")),
        outing_id=key_of(str(typed.get("outing", ""))),
    )  # fmt: skip
    return _begin(request, typed, order, f"{len(found)} dropped", [])


def _begin(request: Request, typed: FormData, order: ImportRequest, source: str, passed: list[str]) -> Response:
    state = request.app.state
    with turn(state.database) as uow:
        pictures.begin_import(uow, order.batch, source, state.now())
    work = bring_in(state.database, state.pictures, state.now, order, passed)
    job = state.jobs.start(f"Bringing in {len(order.paths)} pictures", work)
    with reading_context(request, typed=typed) as context:
        return context.go(f"/jobs/{job}")


@router.post("/log/pictures/clock")
def set_clock(context: CurrentContext, *, outing: Said = "", roll: Said = "", batch: Said = "") -> Response:
    """Put a camera's clock right: by what was found, by the time a picture shows, or by a pair that belongs."""
    scope, typed = read_scope(context.uow, outing, roll, batch), context.typed
    try:
        camera, seconds = _clock_said(context, scope, {name: str(value) for name, value in typed.items()})
    except WelotropeError as error:
        return _page(context, scope, errors={"clock": error.sentence})
    ids = [one.id for one in scope.of_camera(camera)]
    with context.undoable_transaction(f"Put the clock of {camera or 'the camera'} right"):
        pictures.set_clock(context.uow, ids, seconds)
    return context.back_to(f"/log/pictures?{scope.query}")


def _clock_said(context: RequestContext, scope: Scope, typed: dict[str, str]) -> tuple[str, float]:
    """Return a camera and what puts its clock right, s."""
    if typed.get("picture"):
        picture = pictures.get_picture(context.uow, key_of(typed["picture"]) or 0)
        if picture.taken_at is None:
            raise UnreadableError("clock", picture.name, "that picture has no time in it", "Choose another")
        frame = key_of(typed.get("frame", ""))
        shown = log.get_frame(context.uow, frame).taken_at if frame else read_time(typed.get("shown", ""), "time shown")
        return picture.exif.camera, offset_between(shown, picture.taken_at)
    try:
        seconds = float(typed.get("seconds", ""))
    except ValueError:
        seconds = float("nan")
    if not abs(seconds) <= 1e9 or typed.get("camera", "") not in scope.cameras:
        raise UnreadableError("clock", typed.get("seconds", ""), "that is no offset", "Choose what the page offers")
    return typed["camera"], seconds


@router.post("/log/pictures/match")
def match(context: CurrentContext, *, outing: Said = "", roll: Said = "", batch: Said = "") -> Response:
    """Match the pictures that have no frame yet, by time or by order."""
    scope, typed = read_scope(context.uow, outing, roll, batch), context.typed
    try:
        found = _by_order(scope, typed) if typed.get("how") == "order" else _by_time(scope)
    except WelotropeError as error:
        return _page(context, scope, errors={"match": error.sentence})
    if not found:
        words = "No picture fits a frame. Correct the clock first, or match by order."
        return _page(context, scope, errors={"match": words})
    with context.undoable_transaction(f"Matched {len(found)} picture{'' if len(found) == 1 else 's'}"):
        pictures.assign(context.uow, found)
    return context.back_to(f"/log/pictures?{scope.query}")


def _by_time(scope: Scope) -> dict[int, int | None]:
    taken = {one.frame_id for one in scope.pictures}
    loose = [
        Moment(one.id, seconds_of(one.when)) for one in scope.pictures if one.when is not None and one.frame_id is None
    ]
    return dict(match_by_time(loose, [one for one in scope.dated_frames() if one.key not in taken]))


def _by_order(scope: Scope, typed: FormData) -> dict[int, int | None]:
    loose = sorted((one for one in scope.pictures if one.frame_id is None), key=lambda one: natural_order(one.name))
    first = str(typed.get("first", "")) or "1"
    if not first.isascii() or not first.isdigit() or len(first) > 6:
        raise UnreadableError("first frame", first, "that is no number", "Write 1 for the first of them")
    backwards = bool(typed.get("backwards"))
    return dict(
        match_by_order(
            [one.id for one in loose], [one.id for one in scope.frames], first=int(first), backwards=backwards
        )
    )


@router.post("/log/pictures/rest")
def make_frames(context: CurrentContext, *, outing: Said = "", roll: Said = "", batch: Said = "") -> Response:
    """Make a frame of each picture that has none, from what its file says."""
    scope = read_scope(context.uow, outing, roll, batch)
    loose = [one for one in scope.pictures if one.frame_id is None]
    with context.undoable_transaction(f"Made {len(loose)} frame{'' if len(loose) == 1 else 's'} from pictures"):
        places = scope.outing_id
        found: dict[int, int | None] = {}
        for one in loose:
            when = one.when or context.now()
            home = places or log.outing_for(context.uow, when.date())
            frame = NewFrame(
                taken_at=when.replace(microsecond=0), undated=one.when is None, body_name=one.exif.camera,
                lens_name=one.exif.lens, focal_mm=one.exif.focal_mm, stop=one.exif.stop, shutter_s=one.exif.shutter_s,
                iso=one.exif.iso, roll_id=scope.roll_id,
            )  # fmt: skip
            found[one.id] = log.add_frame(context.uow, home, frame)
        pictures.assign(context.uow, found)
    return context.back_to(f"/log/pictures?{scope.query}")


@router.post("/log/pictures/{id}/frame")
def assign(context: CurrentContext, id: int, *, frame: Said = "") -> Response:
    """Say which frame a picture belongs to; an empty one takes it off."""
    chosen = key_of(str(context.typed.get("frame", frame)))
    picture = pictures.get_picture(context.uow, id)
    with context.undoable_transaction(f"Put {picture.name} {'to a frame' if chosen else 'on no frame'}"):
        pictures.assign(context.uow, {id: chosen})
    return context.back_to(
        local_path(str(context.typed.get("back", "")), otherwise=f"/log/pictures?outing={picture.outing_id or 'none'}")
    )


@router.post("/log/pictures/outing")
def put_on_outing(context: CurrentContext, *, outing: Said = "", roll: Said = "", batch: Said = "") -> Response:
    """Put the pictures of a scope that belong to no frame on an outing, undoably."""
    scope, chosen = read_scope(context.uow, outing, roll, batch), key_of(str(context.typed.get("to", "")))
    if chosen is None:
        raise UnreadableError(
            "outing", str(context.typed.get("to", "")), "that is none", "Choose one, or begin one in the log"
        )
    home = log.get_outing(context.uow, chosen)
    loose = [one.id for one in scope.pictures if one.frame_id is None]
    with context.undoable_transaction(f"Put {len(loose)} picture{'' if len(loose) == 1 else 's'} on {home.name}"):
        for id in loose:
            pictures.change_picture(context.uow, id, outing_id=home.id)
    return context.back_to(f"/log/pictures?outing={home.id}")


@router.post("/log/pictures/forget")
def forget(context: CurrentContext, *, outing: Said = "", roll: Said = "", batch: Said = "") -> Response:
    """Forget pictures, undoably: one, or all of an import. Their files stay where they are."""
    one = key_of(str(context.typed.get("picture", "")))
    whole = str(context.typed.get("import", ""))[:40]
    ids = (
        [one]
        if one
        else [picture.id for picture in pictures.list_pictures(context.uow, None, batch=whole)]
        if whole
        else []
    )
    with context.undoable_transaction(f"Forgot {len(ids)} picture{'' if len(ids) == 1 else 's'}"):
        pictures.delete_pictures(context.uow, ids)
    return context.back_to(f"/log/pictures?{read_scope(context.uow, outing, roll, '').query}")


def _page(context: RequestContext, scope: Scope, *, folder: str = "", errors: dict[str, str] | None = None) -> Response:
    page = pictures_page(
        load_lists(context.uow), scope, context.preferences.unit, at_computer=at_computer(context),
        folder=folder, errors=errors,
    )  # fmt: skip
    return context.page(PAGE, page, status=422 if errors else 200)


def at_computer(context: RequestContext) -> bool:
    """Whether the one who asks sits at this computer, whose folders may be read and written."""
    return context.request.app.state.device_pairing is None or context.request.url.hostname in (
        "127.0.0.1",
        "localhost",
        "::1",
    )
