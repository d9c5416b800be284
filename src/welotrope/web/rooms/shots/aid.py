"""/shots: pictures of the slope sheet, focused with one aid, dropped or watched for."""

from __future__ import annotations

import secrets
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, Query
from starlette.datastructures import FormData
from starlette.requests import Request
from starlette.responses import FileResponse, Response

from welotrope.core.errors import UnreadableError, WelotropeError
from welotrope.core.kit.aids.models import Eye
from welotrope.core.kit.aids.registry import kind_names, kind_of
from welotrope.core.testshot.aid_series import (
    AidReading,
    AidVerdictFound,
    MeasuredShot,
    aid_headline,
    fault_sentence,
    likely_causes,
    read_aid,
    told_by_series,
)
from welotrope.core.testshot.made_up_series import made_up_camera
from welotrope.core.testshot.sheets import SheetPaper, slope_sheet
from welotrope.core.units.distance import Unit
from welotrope.core.units.exposure import format_stop, parse_stop
from welotrope.store import outside
from welotrope.store.errors import NotFoundError
from welotrope.store.queries import files, test_shots
from welotrope.store.queries.kit import StoredSetup
from welotrope.store.queries.test_shots import ShotSeries, StoredShot
from welotrope.web.request.context import CurrentContext, RequestContext, TypedForm, reading_context
from welotrope.web.request.folders import BATCH, check_folder, shown_name, taken_in
from welotrope.web.request.jobs import Progress
from welotrope.web.request.limits import is_guest
from welotrope.web.request.shot_taking import ShotRequest, ShotTaker
from welotrope.web.request.watching import FolderWatch, stop_watching
from welotrope.web.rooms.shots.series_taking import made_up_picture

SCALE = ("scale", "distance scale")
PAGE, PART = "shots/aid/page.html", "shots/aid/series.html"
MOST_DROPPED, MADE_UP = 12, 5
KEPT = {"cache-control": "private, max-age=31536000, immutable"}


@dataclass(frozen=True, kw_only=True)
class ShotLine:
    """A picture of a series: its number, what it told, and where to see it."""

    number: int
    id: int
    shot: MeasuredShot
    image: str


@dataclass(frozen=True, kw_only=True)
class WatchView:
    """A folder that is watched: where, whether it is there, and why its last picture was not kept."""

    folder: str
    there: bool
    problem: str


@dataclass(frozen=True, kw_only=True)
class AidShotsPage:
    """A series with one aid: what it tells, picture by picture, and what is to do next.

    ``next_step`` is one sentence; ``said`` what an aid that is off may be, and what would help.
    """

    series: str
    aid: str
    aid_name: str
    aids: tuple[tuple[str, str], ...]
    stop: str
    stops: tuple[str, ...]
    lines: tuple[ShotLine, ...]
    reading: AidReading
    headline: str
    next_step: str
    said: tuple[str, ...]
    made_up: bool
    earlier: tuple[ShotSeries, ...]
    aid_names: dict[str, str]
    batch: str
    folder: str
    errors: dict[str, str]
    watch: WatchView | None
    at_computer: bool
    unit: Unit

    @property
    def last(self) -> ShotLine | None:
        """The newest picture; None without any."""
        return self.lines[-1] if self.lines else None


def aid_choices(stored: StoredSetup) -> tuple[tuple[str, str], ...]:
    """Return the aids a photographer may focus with: keys and names."""
    own = tuple((kind_of(aid).tag, kind_of(aid).label) for aid in stored.setup.body.shown_aids)
    return (*own, SCALE)


def aid_shots_page(
    stored: StoredSetup, shots: Sequence[StoredShot], *, others: Sequence[StoredShot], series: str, aid: str,
    stop: str, eye: Eye, unit: Unit, earlier: Sequence[ShotSeries], batch: str, folder: str, errors: dict[str, str],
    watch: FolderWatch | None, at_computer: bool,
) -> AidShotsPage:  # fmt: skip
    """Compute the page; what was taken is read with the set-up in hand, beside ``others`` with the same aid."""
    reading = read_aid(stored.setup, aid, [one.shot for one in shots], eye=eye)
    said, next_step = likely_causes(reading, aid), ""
    if reading.verdict is AidVerdictFound.OFF and not any(one.made_up for one in shots):
        every = [(one.series, one.shot) for one in (*shots, *others)]
        told = told_by_series(stored.setup, aid, every, eye=eye)
        if told is not None:
            said = (fault_sentence(told, aid),)
            next_step = "That settles it, near and far." if told.fault else ""
    names = kind_names()
    choices = aid_choices(stored)
    name = dict(choices).get(aid, names.get(aid, aid))
    return AidShotsPage(
        series=series, aid=aid, aid_name=name, aids=choices, stop=stop,
        stops=tuple(f"{one:g}" for one in stored.setup.lens.stops),
        lines=tuple(
            ShotLine(number=number, id=one.id, shot=one.shot, image=f"/shots/{one.id}.jpg" if one.preview_sha else "")
            for number, one in enumerate(shots, start=1)
        ),
        reading=reading, headline=aid_headline(reading, name),
        next_step=next_step or _next_step(reading, name, shots), said=said,
        made_up=any(one.made_up for one in shots), earlier=tuple(one for one in earlier if one.series != series),
        aid_names=dict((SCALE, *names.items())), batch=batch, folder=folder, errors=errors,
        watch=_watch_view(watch), at_computer=at_computer, unit=unit,
    )  # fmt: skip


def _watch_view(watch: FolderWatch | None) -> WatchView | None:
    if watch is None or not watch.watching:
        return None
    return WatchView(folder=str(Path(watch.folder)), there=watch.there, problem=watch.problem)


def _next_step(reading: AidReading, name: str, shots: Sequence[StoredShot]) -> str:
    if not shots:
        return f"Turn the ring away, focus on the bold line with the {name.lower()}, take the picture: three times."
    if shots[-1].shot.warnings:
        return shots[-1].shot.warnings[0]
    if reading.verdict is AidVerdictFound.FEW:
        count = "one more picture" if reading.more == 1 else f"{reading.more} more pictures"
        return f"Turn the ring away, focus anew, and take {count}."
    if reading.verdict is AidVerdictFound.OPEN and reading.more:
        count = "one more" if reading.more == 1 else f"about {reading.more} more"
        return f"It is not settled yet: {count} would tell. Focus anew for each."
    if reading.verdict is AidVerdictFound.OPEN:
        return "Ten pictures do not settle it: they scatter more than the aid may be off. Practise with it, or magnify."
    return "That settles it. Stop here, or begin a series at another distance."


router = APIRouter()
Said = Annotated[str, Query(max_length=40)]


@router.get("/shots")
def show_series(context: CurrentContext, *, series: Said = "", aid: Said = "", stop: Said = "") -> Response:
    """Show a series with one aid, and what it tells so far."""
    return context.page(PAGE, _page(context, series=series, aid=aid, stop=stop), part=PART)


def _page(
    context: RequestContext, *, series: str = "", aid: str = "", stop: str = "", folder: str = "",
    errors: dict[str, str] | None = None,
) -> AidShotsPage:  # fmt: skip
    stored = context.selected_setup()
    shots = test_shots.shots_of_series(context.uow, series) if BATCH.match(series) else []
    known = dict(aid_choices(stored))
    chosen = shots[-1].aid if shots and not aid else aid if aid in known else next(iter(known))
    usual = f"{shots[-1].shot.stop:g}" if shots and not stop else stop or format_stop(stored.setup.lens.widest)[2:]
    watch = context.request.app.state.watches.get(series)
    return aid_shots_page(
        stored, shots, others=_others(context, stored.id, chosen, series),
        series=series if BATCH.match(series) else secrets.token_hex(8), aid=chosen, stop=usual,
        eye=context.personal().eye, unit=context.preferences.unit, earlier=test_shots.list_series(context.uow),
        batch=secrets.token_hex(8), folder=folder, errors=errors or {}, watch=watch,
        at_computer=not is_guest(context.request),
    )  # fmt: skip


def _others(context: RequestContext, setup_id: int, aid: str, series: str) -> list[test_shots.StoredShot]:
    """Return the pictures of other series with a set-up and an aid."""
    every = test_shots.shots_of_setup(context.uow, setup_id)
    return [one for one in every if one.aid == aid and one.series != series]


def _order(context: RequestContext, typed: FormData, *, made_up: bool = False) -> ShotRequest:
    """Read what pictures are taken with."""
    stored = context.selected_setup()
    series, aid = str(typed.get("series", "")), str(typed.get("aid", ""))
    if aid not in dict(aid_choices(stored)):
        raise UnreadableError("aid", aid, "this camera has none of that name", "Choose one of the list")
    return ShotRequest(
        series=series if BATCH.match(series) else secrets.token_hex(8), stored=stored, aid=aid,
        stop=parse_stop(str(typed.get("stop", ""))), person=context.preferences.person, made_up=made_up,
    )  # fmt: skip


def _taker(request: Request) -> ShotTaker:
    state = request.app.state
    return ShotTaker(state.database, state.pictures, state.now)


@router.post("/shots/dropped")
def measure_dropped(request: Request, typed: TypedForm) -> Response:
    """Measure what was dropped on the page and has come, as long work."""
    found = taken_in(request.app.state.database.folder, str(typed.get("batch", "")))
    with reading_context(request, typed=typed) as context:
        try:
            if not found:
                raise UnreadableError("pictures", "", "none of them came", "Choose or drop them again")
            if len(found) > MOST_DROPPED:
                raise UnreadableError(
                    "pictures", len(found), "that is more than a series needs", f"Send {MOST_DROPPED}"
                )
            order = _order(context, typed)
        except WelotropeError as error:
            return _refused(context, typed, error)
    taker = _taker(request)

    def work(progress: Progress) -> str:
        for number, path in enumerate(found):
            progress.step(number, len(found), shown_name(path))
            taker.take(order, path, shown_name(path))
            path.unlink(missing_ok=True)
        return f"/shots?series={order.series}"

    job = request.app.state.jobs.start("Measuring test shots", work)
    with reading_context(request, typed=typed) as context:
        return context.go(f"/jobs/{job}")


@router.post("/shots/try")
def try_without_camera(request: Request, typed: TypedForm) -> Response:
    """Let a simulated camera whose aid is off take a series, as long work; it counts for nothing."""
    with reading_context(request, typed=typed) as context:
        order = _order(context, FormData([*typed.multi_items(), ("series", "")]), made_up=True)
        folder = context.uow.folder
    taker, pictures = _taker(request), request.app.state.pictures

    def work(progress: Progress) -> str:
        for number in range(MADE_UP):
            progress.step(number, MADE_UP, f"made-up picture {number + 1}")
            camera = made_up_camera(order.stored.setup, order.stop, number)
            with made_up_picture(pictures, [(slope_sheet(SheetPaper.A4), camera)], folder) as path:
                taker.take(order, path, f"made-up {number + 1}.jpg")
        return f"/shots?series={order.series}"

    job = request.app.state.jobs.start("Taking made-up test shots", work)
    with reading_context(request, typed=typed) as context:
        return context.go(f"/jobs/{job}")


@router.post("/shots/watch")
def watch_folder(request: Request, typed: TypedForm) -> Response:
    """Measure every picture that comes into a folder from now on."""
    said = str(typed.get("folder", ""))
    with reading_context(request, typed=typed) as context:
        try:
            folder, order = check_folder(said), _order(context, typed)
        except WelotropeError as error:
            return _refused(context, typed, error)
    outside.name_folder(request.app.state.database.folder, folder)
    taker = _taker(request)
    stop_watching(request.app.state.watches)
    request.app.state.watches[order.series] = FolderWatch(
        folder, lambda path: taker.take(order, path, path.name), begin=request.app.state.pictures.make_ready
    )
    with reading_context(request, typed=typed) as context:
        return context.go(f"/shots?series={order.series}&aid={order.aid}&stop={order.stop:g}")


@router.post("/shots/watch/stop")
def end_watch(request: Request, typed: TypedForm) -> Response:
    """Stop watching."""
    stop_watching(request.app.state.watches)
    with reading_context(request, typed=typed) as context:
        return context.go(f"/shots?series={typed.get('series', '')}")


def _refused(context: RequestContext, typed: FormData, error: WelotropeError) -> Response:
    page = _page(
        context, series=str(typed.get("series", "")), aid=str(typed.get("aid", "")), stop=str(typed.get("stop", "")),
        folder=str(typed.get("folder", "")), errors={error.key: error.sentence},
    )  # fmt: skip
    return context.page(PAGE, page, status=422)


@router.post("/shots/{id}/delete")
def delete_shot(context: CurrentContext, id: int) -> Response:
    """Delete a picture's measurement; undoable."""
    shot = test_shots.get_shot(context.uow, id)
    with context.undoable_transaction(f"Deleted {shot.shot.picture}"):
        test_shots.delete_shot(context.uow, id)
    return context.back_to(f"/shots?series={shot.series}")


@router.post("/shots/series/{series}/delete")
def delete_series(context: CurrentContext, series: str) -> Response:
    """Delete a series; undoable as one."""
    with context.undoable_transaction("Deleted a series of test shots"):
        if not test_shots.delete_series(context.uow, series):
            raise NotFoundError("series", 0)
    return context.back_to("/shots")


@router.get("/shots/{id}.jpg")
def shot_picture(context: CurrentContext, id: int) -> Response:
    """Serve a measured picture, small."""
    sha = test_shots.get_shot(context.uow, id).preview_sha
    place: Path | None = files.place_of_file(context.uow, sha) if sha else None
    if place is None:
        raise NotFoundError("picture file", id)
    return FileResponse(
        place, media_type="image/jpeg", headers={"cache-control": "private, max-age=31536000, immutable"}
    )
