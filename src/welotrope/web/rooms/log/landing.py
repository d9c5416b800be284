"""/log/landing: a folder the camera writes into is watched, and each new picture is brought in and shown."""

from __future__ import annotations

import secrets
import threading
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

from fastapi import APIRouter
from starlette.requests import Request
from starlette.responses import Response

from welotrope.core.errors import WelotropeError
from welotrope.core.picture.picture import Picture
from welotrope.core.review.frame import Outing
from welotrope.store import outside
from welotrope.store.queries import log, pictures
from welotrope.store.unit_of_work import UnitOfWork
from welotrope.web.forms import key_of
from welotrope.web.request.context import CurrentContext, RequestContext, TypedForm, reading_context
from welotrope.web.request.folders import check_folder
from welotrope.web.request.jobs import Progress, turn
from welotrope.web.request.limits import is_guest
from welotrope.web.request.watching import FolderWatch, stop_watching
from welotrope.web.rooms.log.frame import Options
from welotrope.web.rooms.log.frame_form import outing_options
from welotrope.web.rooms.log.picture_importing import ImportRequest, bring_in
from welotrope.web.rooms.log.picture_scope import read_scope

router = APIRouter()
PAGE, PART = "log/landing/page.html", "log/landing/landed.html"


class LandingWatch(FolderWatch):
    """Brings every picture that lands into the log.

    Parameters
    ----------
    folder
        What is watched.
    batch
        Key of the import that the pictures belong to.
    take
        What brings a picture in.
    """

    def __init__(self, folder: Path, batch: str, take: Callable[[Path], object]) -> None:
        self.batch = batch
        super().__init__(folder, take)


@dataclass(frozen=True, kw_only=True)
class LandingPage:
    """A folder that is watched for the log: the newest picture of it, and what was wrong with the last."""

    watching: bool
    folder: str
    there: bool
    problem: str
    refused: str
    newest: Picture | None
    count: int
    outings: Options
    typed: str
    errors: dict[str, str]
    at_computer: bool


@router.get("/log/landing")
def show_landing(context: CurrentContext) -> Response:
    """Show the newest picture of the folder that is watched, or what to watch."""
    return context.page(PAGE, _page(context), part=PART)


@dataclass(frozen=True, kw_only=True)
class LandingData:
    """What landed since the folder is watched, what of it was refused, and the outings it may belong to."""

    landed: Sequence[Picture] = ()
    refused: Sequence[str] = ()
    outings: Sequence[Outing] = ()


def load_landing(uow: UnitOfWork, batch: str | None) -> LandingData:
    """Read what came with an import, by its key; without one only the outings."""
    outings = log.list_outings(uow)
    if batch is None:
        return LandingData(outings=outings)
    report = next((one for one in pictures.list_imports(uow) if one.batch == batch), None)
    landed = read_scope(uow, "", "", batch).pictures
    return LandingData(landed=landed, refused=tuple(report.refused) if report else (), outings=outings)


def landing_page(
    data: LandingData, watch: LandingWatch | None, *, typed: str, errors: dict[str, str], at_computer: bool
) -> LandingPage:
    """Show the picture that came last, and what was wrong."""
    landed = sorted(data.landed, key=lambda one: one.id)
    return LandingPage(
        watching=watch is not None, folder=str(watch.folder) if watch else "", there=watch is None or watch.there,
        problem=watch.problem if watch else "", refused=data.refused[-1] if data.refused else "",
        newest=landed[-1] if landed else None, count=len(landed), outings=outing_options(data.outings), typed=typed,
        errors=errors, at_computer=at_computer,
    )  # fmt: skip


def _page(context: RequestContext, *, typed: str = "", errors: dict[str, str] | None = None) -> LandingPage:
    watch, at_computer = _watch_of(context.request), not is_guest(context.request)
    data = load_landing(context.uow, watch.batch if watch else None)
    return landing_page(data, watch, typed=typed, errors=errors or {}, at_computer=at_computer)


def _watch_of(request: Request) -> LandingWatch | None:
    watches = request.app.state.watches.values()
    return next((one for one in watches if isinstance(one, LandingWatch) and one.watching), None)


@router.post("/log/landing")
def watch_landing(request: Request, typed: TypedForm) -> Response:
    """Watch a folder, and bring what lands in it into the log."""
    said, outing = str(typed.get("folder", "")), key_of(str(typed.get("outing", "")))
    with reading_context(request, typed=typed) as context:
        try:
            folder = check_folder(said)
        except WelotropeError as error:
            page = _page(context, typed=said, errors={"folder": error.sentence})
            return context.page(PAGE, page, status=422)
    state, batch = request.app.state, secrets.token_hex(8)
    outside.name_folder(state.database.folder, folder)
    with turn(state.database) as uow:
        pictures.begin_import(uow, batch, str(folder), state.now())

    def take(path: Path) -> None:
        order = ImportRequest(batch=batch, paths=[path], outing_id=outing)
        bring_in(state.database, state.pictures, state.now, order, [])(Progress(threading.Event()))

    stop_watching(request.app.state.watches)
    state.watches[batch] = LandingWatch(folder, batch, take)
    with reading_context(request, typed=typed) as context:
        return context.go("/log/landing")


@router.post("/log/landing/stop")
def stop_landing(request: Request, typed: TypedForm) -> Response:
    """Stop watching; what landed stays."""
    watch = _watch_of(request)
    stop_watching(request.app.state.watches)
    with reading_context(request, typed=typed) as context:
        return context.go(f"/log/pictures?batch={watch.batch}" if watch else "/log/landing")
