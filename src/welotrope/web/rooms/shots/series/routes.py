"""/shots/series: which stop is the sharpest, and where on the ring a subject is."""

from __future__ import annotations

import json
import secrets
from typing import Annotated

from fastapi import APIRouter, Query
from starlette.requests import Request
from starlette.responses import Response

from welotrope.core.errors import UnreadableError, WelotropeError
from welotrope.interchange.testshot import MOST_PICTURES, read_place
from welotrope.store.queries import history, test_shots
from welotrope.web.request.context import CurrentContext, RequestContext, TypedForm, reading_context
from welotrope.web.request.dropped import shown_name, taken_in
from welotrope.web.request.jobs import Progress, turn
from welotrope.web.request.limits import Key
from welotrope.web.rooms.shots.series.context import KINDS, SeriesPage, curve_views, headline_of, record_of

router = APIRouter()
PAGE = "shots/series/page.html"


@router.get("/shots/series")
def show_series(
    context: CurrentContext, *, kind: Annotated[str, Query(max_length=10)] = "stops", id: Key | None = None
) -> Response:
    """Show how a series is taken, or what one told."""
    return context.page(PAGE, _page(context, kind=kind, id=id))


def _page(
    context: RequestContext, *, kind: str, id: int | None = None, places: str = "", errors: dict[str, str] | None = None
) -> SeriesPage:
    shown = test_shots.get_series(context.uow, id) if id is not None else None
    kind = shown.kind if shown else kind if kind in KINDS else "stops"
    earlier = test_shots.results_of_setup(context.uow, context.selected_setup().id)
    return SeriesPage(
        kind=kind, kinds=KINDS, shown=shown, headline=headline_of(kind, shown.found) if shown else "",
        curves=curve_views(kind, shown.found) if shown else (),
        earlier=tuple(one for one in earlier if shown is None or one.id != shown.id), batch=secrets.token_hex(8),
        places=places, errors=errors or {},
    )  # fmt: skip


@router.post("/shots/series")
def measure_series(request: Request, typed: TypedForm) -> Response:
    """Measure the pictures that were dropped, as long work."""
    kind, said = str(typed.get("kind", "")), str(typed.get("places", ""))
    found = taken_in(request.app.state.database.folder, str(typed.get("batch", "")))
    names = [shown_name(path) for path in found]
    with reading_context(request, typed=typed) as context:
        try:
            if kind not in KINDS:
                raise UnreadableError("series", kind, "there is none of that name", f"Choose {' or '.join(KINDS)}")
            places = _places(said, names, stops=kind == "stops")
        except WelotropeError as error:
            page = _page(context, kind=kind, places=said, errors={error.key: error.sentence})
            return context.page(PAGE, page, status=422)
        stored, person = context.selected_setup(), context.preferences.person
    state = request.app.state

    def work(progress: Progress) -> str:
        progress.step(0, 1, f"{len(found)} pictures")
        placed = [(str(path), place) for path, place in zip(found, places, strict=True)]
        told = state.pictures.ask("series", found[0].parent, of=kind, placed=json.dumps(placed))
        with turn(state.database) as uow:
            new = test_shots.NewShot(
                series=secrets.token_hex(8), person=person, setup_id=stored.id, body_name=stored.setup.body.name,
                lens_name=stored.setup.lens.name, taken_at=state.now(),
            )  # fmt: skip
            with history.recorded(uow, "Measured a series", state.now()):
                id = test_shots.add_series(uow, new, kind, record_of(kind, told, names))
        return f"/shots/series?id={id}"

    job = state.jobs.start("Measuring a series", work)
    with reading_context(request, typed=typed) as context:
        return context.go(f"/jobs/{job}")


def _places(said: str, names: list[str], *, stops: bool) -> list[float]:
    works = "Write one for each picture, in the order of their names"
    if not names:
        raise UnreadableError("pictures", "", "none of them came", "Choose or drop them again")
    if len(names) > MOST_PICTURES:
        raise UnreadableError("pictures", len(names), "that is more than one series holds", f"Send {MOST_PICTURES}")
    texts = said.replace(";", " ").split()
    if len(texts) != len(names):
        problem = f"{len(names)} pictures came"
        raise UnreadableError("places", said, problem, works)
    return [read_place(text, stops=stops, works=works) for text in texts]


@router.post("/shots/series/result/{id}/delete")
def delete_result(context: CurrentContext, id: int) -> Response:
    """Delete what a series told; undoable."""
    stored = test_shots.get_series(context.uow, id)
    with context.undoable_transaction("Deleted a series"):
        test_shots.delete_shot(context.uow, stored.id)
    return context.back_to(f"/shots/series?kind={stored.kind}")
