"""/shots/series: the sharpest stop, focus shift, where the ring is sharpest, and whether the lens stands straight."""

from __future__ import annotations

import secrets
from collections.abc import Sequence
from contextlib import ExitStack
from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, Query
from starlette.datastructures import FormData
from starlette.requests import Request
from starlette.responses import Response

from welotrope.core.errors import UnreadableError, WelotropeError
from welotrope.core.testshot.made_up_series import made_up_series
from welotrope.core.testshot.series_words import SeriesKind, shift_record, sighting_of, with_best_stops, with_sighting
from welotrope.core.units.exposure import parse_stop
from welotrope.interchange.testshot import MOST_PICTURES, read_place
from welotrope.store import outside
from welotrope.store.queries import kit, test_shots
from welotrope.store.queries.ring_records import RecordKind, get_record, save_record
from welotrope.web.request.context import CurrentContext, RequestContext, TypedForm, reading_context
from welotrope.web.request.folders import check_folder, shown_name, taken_in
from welotrope.web.request.jobs import Progress
from welotrope.web.request.limits import Key, is_guest
from welotrope.web.request.watching import stop_watching
from welotrope.web.rooms.shots.series_page import (
    FARTHER,
    GUIDES,
    NEARER,
    Result,
    SeriesForm,
    SeriesPage,
    earlier_but,
    guides,
    result_of,
    usual_places,
    watched_series,
)
from welotrope.web.rooms.shots.series_taking import SeriesOrder, SeriesTaking, SeriesWatch, made_up_picture

router = APIRouter()
PAGE, PART = "shots/series/page.html", "shots/series/coming.html"
_SIDES = {NEARER: -1.0, FARTHER: 1.0}


@router.get("/shots/series")
def show_series(
    context: CurrentContext, *, kind: Annotated[str, Query(max_length=10)] = "stops", id: Key | None = None,
    batch: Annotated[str, Query(max_length=20)] = "",
) -> Response:  # fmt: skip
    """Show how a series is taken, how far one has come, or what one told."""
    watch = _watch_of(context.request, batch)
    if watch is not None and watch.result is not None:
        return context.go(f"/shots/series?id={watch.result}")
    return context.page(PAGE, _page(context, kind=_kind(kind), id=id, batch=batch), part=PART)


def _kind(text: str) -> SeriesKind:
    return SeriesKind(text) if text in set(SeriesKind) else SeriesKind.STOPS


def _page(
    context: RequestContext, *, kind: SeriesKind, id: int | None = None, batch: str = "",
    form: SeriesForm | None = None, errors: dict[str, str] | None = None,
) -> SeriesPage:  # fmt: skip
    setup = context.selected_setup()
    result: Result | None = None
    if id is not None:
        stored = test_shots.get_series(context.uow, id)
        taken = kit.find_setup(context.uow, stored.setup_id) if stored.setup_id else None
        result, kind = result_of(stored, taken.lens_id if taken else setup.lens_id), SeriesKind(stored.kind)
    watch = _watch_of(context.request, batch)
    if watch is not None:
        kind = watch.taking.order.kind
    lens = setup.setup.lens
    usual = SeriesForm(places=usual_places(kind, lens), stop=f"{lens.widest:g}")
    return SeriesPage(
        guide=GUIDES[kind], guides=guides(), result=result,
        watched=watched_series(batch, watch) if watch is not None else None,
        earlier=earlier_but(test_shots.results_of_setup(context.uow, setup.id), id), batch=secrets.token_hex(8),
        form=form or usual, errors=errors or {}, at_computer=not is_guest(context.request),
    )  # fmt: skip


def _watch_of(request: Request, batch: str) -> SeriesWatch | None:
    watch = request.app.state.watches.get(batch)
    return watch if isinstance(watch, SeriesWatch) else None


def _order(context: RequestContext, typed: FormData) -> SeriesOrder:
    """Read what a series is taken with."""
    said = str(typed.get("kind", ""))
    if said not in set(SeriesKind):
        raise UnreadableError("series", said, "there is none of that name", "Choose one of the list")
    kind, stored = SeriesKind(said), context.selected_setup()
    return SeriesOrder(
        kind=kind, stored=stored, places=tuple(_places(str(typed.get("places", "")), kind)),
        stop=parse_stop(str(typed.get("stop", "")) or f"{stored.setup.lens.widest:g}"),
        in_degrees=bool(typed.get("in_degrees")), at_infinity=bool(typed.get("at_infinity")),
        person=context.preferences.person,
    )  # fmt: skip


def _places(said: str, kind: SeriesKind) -> list[float]:
    texts = said.replace(";", " ").replace(",", " ").split() if kind.has_stops else said.replace(";", " ").split()
    works = "Write one for each picture, in their order"
    least = GUIDES[kind].least
    if len(texts) < least:
        raise UnreadableError("places", said, f"a series needs {least} at least", works)
    if len(texts) > MOST_PICTURES:
        raise UnreadableError("places", len(texts), "that is more than one series holds", f"Send {MOST_PICTURES}")
    if kind is SeriesKind.LEVEL:
        unknown = next((text for text in texts if text.lower() not in _SIDES), None)
        if unknown is not None:
            raise UnreadableError("places", unknown, "it is neither of the two", f"Write {NEARER} or {FARTHER}")
        return [_SIDES[text.lower()] for text in texts]
    return [read_place(text, stops=kind.has_stops, works=works) for text in texts]


def _taking(request: Request, order: SeriesOrder) -> SeriesTaking:
    state = request.app.state
    return SeriesTaking(order=order, database=state.database, workers=state.pictures, now=state.now)


def _refused(context: RequestContext, typed: FormData, error: WelotropeError) -> Response:
    form = SeriesForm(
        places=str(typed.get("places", "")), stop=str(typed.get("stop", "")), folder=str(typed.get("folder", "")),
        in_degrees=bool(typed.get("in_degrees")), at_infinity=bool(typed.get("at_infinity")),
    )  # fmt: skip
    page = _page(context, kind=_kind(str(typed.get("kind", ""))), form=form, errors={error.key: error.sentence})
    return context.page(PAGE, page, status=422)


@router.post("/shots/series")
def measure_series(request: Request, typed: TypedForm) -> Response:
    """Measure the pictures that were dropped, as long work."""
    found = taken_in(request.app.state.database.folder, str(typed.get("batch", "")))
    with reading_context(request, typed=typed) as context:
        try:
            if not found:
                raise UnreadableError("pictures", "", "none of them came", "Choose or drop them again")
            order = _order(context, typed)
            if len(found) != len(order.places):
                raise UnreadableError(
                    "places", str(typed.get("places", "")), f"{len(found)} pictures came",
                    "Write one for each picture, in the order of their names",
                )  # fmt: skip
        except WelotropeError as error:
            return _refused(context, typed, error)
    return _measured(request, typed, _taking(request, order), [(path, shown_name(path)) for path in found])


def _measured(
    request: Request, typed: FormData, taking: SeriesTaking, pictures: Sequence[tuple[Path, str]]
) -> Response:
    def work(progress: Progress) -> str:
        for number, (path, name) in enumerate(pictures):
            progress.step(number, len(pictures) + 1, name)
            taking.add(path, name)
        progress.step(len(pictures), len(pictures) + 1, "comparing them")
        return f"/shots/series?id={taking.finish()}"

    job = request.app.state.jobs.start("Measuring a series", work)
    with reading_context(request, typed=typed) as context:
        return context.go(f"/jobs/{job}")


@router.post("/shots/series/try")
def try_series(request: Request, typed: TypedForm) -> Response:
    """Let a simulated camera take a series, as long work; it counts for nothing."""
    kind = _kind(str(typed.get("kind", "")))
    with reading_context(request, typed=typed) as context:
        stored, folder = context.selected_setup(), context.uow.folder

    shots = made_up_series(kind, stored.setup)
    order = SeriesOrder(
        kind=kind, stored=stored, places=tuple(one.place for one in shots), stop=stored.setup.lens.widest,
        in_degrees=kind is SeriesKind.RING, made_up=True,
    )  # fmt: skip
    taking = _taking(request, order)

    def work(progress: Progress) -> str:
        with ExitStack() as kept:
            for number, shot in enumerate(shots):
                progress.step(number, len(shots) + 1, f"made-up picture {number + 1}")
                path = kept.enter_context(made_up_picture(taking.workers, shot.sheets, folder))
                taking.add(path, f"made-up {number + 1}.jpg")
            progress.step(len(shots), len(shots) + 1, "comparing them")
            return f"/shots/series?id={taking.finish()}"

    job = request.app.state.jobs.start("Taking a made-up series", work)
    with reading_context(request, typed=typed) as context:
        return context.go(f"/jobs/{job}")


@router.post("/shots/series/watch")
def watch_series(request: Request, typed: TypedForm) -> Response:
    """Take the next picture of a series with each that comes into a folder from now on."""
    with reading_context(request, typed=typed) as context:
        try:
            folder, order = check_folder(str(typed.get("folder", ""))), _order(context, typed)
        except WelotropeError as error:
            return _refused(context, typed, error)
    outside.name_folder(request.app.state.database.folder, folder)
    stop_watching(request.app.state.watches)
    batch = secrets.token_hex(8)
    request.app.state.watches[batch] = SeriesWatch(folder, _taking(request, order))
    with reading_context(request, typed=typed) as context:
        return context.go(f"/shots/series?kind={order.kind.value}&batch={batch}")


@router.post("/shots/series/watch/end")
def end_watch(request: Request, typed: TypedForm) -> Response:
    """Stop watching; what has come is measured when that is asked for and it is enough."""
    watch = _watch_of(request, str(typed.get("batch", "")))
    kind = watch.taking.order.kind if watch is not None else _kind(str(typed.get("kind", "")))
    to = f"/shots/series?kind={kind.value}"
    stop_watching(request.app.state.watches)
    if watch is not None and typed.get("measure") and len(watch.taking.came) >= GUIDES[kind].least:
        taking = watch.taking
        job = request.app.state.jobs.start("Measuring a series", lambda _: f"/shots/series?id={taking.finish()}")
        to = f"/jobs/{job}"
    with reading_context(request, typed=typed) as context:
        return context.go(to)


@router.post("/shots/series/result/{id}/keep")
def keep_result(context: CurrentContext, id: int) -> Response:
    """Fill in what a series offers: focus shift, infinity, or the lens's sharpest stops; undoable."""
    stored = test_shots.get_series(context.uow, id)
    setup = kit.find_setup(context.uow, stored.setup_id) if stored.setup_id else None
    result = result_of(stored, setup.lens_id if setup else None)
    if setup is None or result.offer is None:
        raise UnreadableError("series", stored.lens_name, "nothing of it can be kept", "Take another")
    with context.undoable_transaction(f"Saved the {result.offer.what} of {setup.setup.lens.name}"):
        _keep(context, stored, setup.lens_id, setup.id)
    return context.back_to(result.path)


def _keep(context: RequestContext, stored: test_shots.StoredSeries, lens_id: int, setup_id: int) -> None:
    taken, kind = stored.taken_at.date(), SeriesKind(stored.kind)
    if kind is SeriesKind.SHIFT and (shift := shift_record(stored.found)) is not None:
        save_record(context.uow, RecordKind.SHIFT, lens_id, setup_id, shift, taken)
    elif kind is SeriesKind.RING and (sighting := sighting_of(stored.found)) is not None:
        before = get_record(context.uow, RecordKind.INFINITY, lens_id, setup_id)
        found = with_sighting(before.record if before else None, sighting)
        save_record(context.uow, RecordKind.INFINITY, lens_id, setup_id, found, taken)
    elif kind is SeriesKind.STOPS:
        lens = with_best_stops(kit.get_lens(context.uow, lens_id), stored.found)
        kit.save_lens(context.uow, lens, lens_id)


@router.post("/shots/series/result/{id}/delete")
def delete_result(context: CurrentContext, id: int) -> Response:
    """Delete what a series told; undoable."""
    stored = test_shots.get_series(context.uow, id)
    with context.undoable_transaction("Deleted a series"):
        test_shots.delete_shot(context.uow, stored.id)
    return context.back_to(f"/shots/series?kind={stored.kind}")
