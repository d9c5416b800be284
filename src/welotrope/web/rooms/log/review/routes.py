"""Looking at pictures one by one, large, and saying what they show."""

from __future__ import annotations

import secrets
from dataclasses import replace
from typing import Annotated
from urllib.parse import urlencode

from fastapi import APIRouter, Query
from starlette.requests import Request
from starlette.responses import Response

from welotrope.core.errors import UnreadableError, WelotropeError
from welotrope.core.inputs import FormInput
from welotrope.core.picture.picture import Picture
from welotrope.core.review.frame import INSTEAD, Frame, Spot, marked
from welotrope.core.review.outcomes import Outcome
from welotrope.core.units.distance import parse_distance
from welotrope.interchange.pictures.workers import PictureError
from welotrope.store.queries import files, log, pictures
from welotrope.web.forms.text_form import key_of
from welotrope.web.request.context import CurrentContext, RequestContext, TypedForm, reading_context
from welotrope.web.request.jobs import turn
from welotrope.web.request.limits import Key
from welotrope.web.request.origin import is_guest
from welotrope.web.rooms.log.pictures.serving import original_of
from welotrope.web.rooms.log.review.context import load_review, review_page

router = APIRouter()
Share = Annotated[float | None, Query(ge=0, le=1)]


@router.get("/log/review")
def review(
    context: CurrentContext, *, picture: Key | None = None, outing: str = "", x: Share = None, y: Share = None
) -> Response:
    """Show a picture of an outing, the first not checked yet when none is asked for."""
    shown = pictures.get_picture(context.uow, picture) if picture else _first(context, key_of(outing))
    if shown is None:
        return context.page("log/review/empty.html", None)
    spot = Spot(x, y) if x is not None and y is not None else None
    page = review_page(
        load_review(context.uow, shown), full=not is_guest(context.request) and original_of(context, shown) is not None,
        unit=context.preferences.unit, spot=spot,
    )  # fmt: skip
    return context.page("log/review/page.html", page, part="log/review/side.html")


def _first(context: RequestContext, outing_id: int | None) -> Picture | None:
    """Return the first picture of an outing, or of the newest, whose frame is not checked yet; else the first."""
    if outing_id is None:
        outings = log.list_outings(context.uow)
        outing_id = outings[0].id if outings else None
    found = pictures.list_pictures(context.uow, outing_id)
    marked = {
        one.id for one in log.frames_called(context.uow, [p.frame_id for p in found if p.frame_id]) if one.outcome
    }
    return next((one for one in found if one.frame_id and one.frame_id not in marked), found[0] if found else None)


@router.post("/log/review/{id}")
def mark(context: CurrentContext, id: int) -> Response:
    """Keep what a picture shows: the verdict, the spot that was meant, and what is sharp instead."""
    picture = pictures.get_picture(context.uow, id)
    if picture.frame_id is None:
        works = "Put it to a frame on the page of pictures, or make one of it"
        raise UnreadableError("picture", picture.name, "it belongs to no frame yet", works)
    frame = log.get_frame(context.uow, picture.frame_id)
    changed = _changed(context, frame)
    with context.undoable_transaction(f"Reviewed {picture.name}"):
        log.change_frame(context.uow, changed)
    return context.back_to(_on_from(context, picture, changed))


def _on_from(context: RequestContext, picture: Picture, changed: Frame) -> str:
    """Return where to go after a picture: a verdict leads to the next one, and taking it back leads here again."""
    here = f"/log/review?picture={picture.id}"
    if not (context.typed.get("outcome") and changed.outcome):
        return here
    order = [one.id for one in pictures.list_pictures(context.uow, picture.outing_id)]
    after = next(iter(order[order.index(picture.id) + 1 :]), None)
    return here if after is None else f"/log/review?{urlencode({'picture': after, 'undo_to': here})}"


def _changed(context: RequestContext, frame: Frame) -> Frame:
    typed = {name: str(value) for name, value in context.typed.items()}
    outcome = typed.get("outcome", "")
    if outcome and outcome not in set(Outcome):
        raise UnreadableError("result", outcome, "that is not a result", f"Choose one of {', '.join(Outcome)}")
    if "outcome" in typed:
        frame = marked(frame, Outcome(outcome) if outcome else None, context.now())
    if typed.get("x") and typed.get("y"):
        frame = replace(frame, spot=_spot(typed["x"], typed["y"]))
    if "instead" in typed:
        frame = replace(frame, instead=INSTEAD.read(typed["instead"], FormInput(texts={})) if typed["instead"] else "")
    if "miss" in typed:
        said = typed["miss"].strip()
        frame = replace(
            frame, miss_mm=parse_distance(said, field="how far off", bare=context.numbers_in) if said else None
        )
    return frame


def _spot(x: str, y: str) -> Spot:
    try:
        return Spot(float(x), float(y))
    except (ValueError, WelotropeError):
        raise UnreadableError("place in the picture", f"{x} {y}", "that is no place", "Click in the picture") from None


@router.post("/log/review/{id}/measure")
def measure(request: Request, typed: TypedForm, id: int) -> Response:
    """Measure where a picture is sharp, when that was not done when it came in."""
    state = request.app.state
    with reading_context(request, typed=typed) as context:
        picture = pictures.get_picture(context.uow, id)
        original = original_of(context, picture)
    if original is None:
        works = "Bring it in again from its folder"
        raise UnreadableError("picture", picture.name, "its file is gone or has changed", works)
    draft = state.database.folder / f"preview-{secrets.token_hex(4)}.part"
    try:
        with state.heavy.enter():
            found = state.pictures.ask("measure", original, preview=str(draft))
        data = draft.read_bytes()
        with turn(state.database) as uow:
            preview = files.keep_file(uow, data, "image/jpeg", state.now())
            pictures.keep_measured(uow, id, found)
            pictures.change_picture(uow, id, preview_sha=preview)
    except PictureError as error:
        raise UnreadableError("picture", picture.name, error.sentence.rstrip("."), "Look at it by eye") from None
    finally:
        draft.unlink(missing_ok=True)
    with reading_context(request, typed=typed) as context:
        return context.go(f"/log/review?picture={id}")
