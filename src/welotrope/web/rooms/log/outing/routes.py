"""Outings with their frames, found, changed many at once, and as files."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query
from starlette.requests import Request
from starlette.responses import Response

from welotrope.core.errors import OutOfRangeError, UnreadableError
from welotrope.core.review.search import read_search
from welotrope.store.queries import log
from welotrope.web.request.bulk import MANY
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.request.exports import exported
from welotrope.web.request.limits import Key
from welotrope.web.rooms.log.outing.bulk import BulkForm, changed
from welotrope.web.rooms.log.outing.context import FrameFilter, asked_of, load_log, log_page, place_of
from welotrope.web.rooms.log.outing.form import OutingForm

router = APIRouter()
MOST_AT_ONCE = 2000
Words = Annotated[str, Query(max_length=400)]


@router.get("/log")
def show_log(
    context: CurrentContext,
    *,
    outing: Words = "",
    q: Words = "",
    outcome: Words = "",
    lens: Words = "",
    after: Words = "",
) -> Response:
    """Show an outing, the newest first, or what is looked for; further pages of frames as fragments."""
    asked = asked_of(outing, q, outcome, lens)
    search = read_search(asked.q, context.numbers_in, outcome=asked.outcome, lens=asked.lens)
    data = load_log(context.uow, asked, search, place_of(after) if after else None)
    page = log_page(data, asked, search, context.preferences.unit)
    return context.page("log/outing/page.html", page, part="log/outing/rows.html" if after else "log/outing/found.html")


@router.post("/log/change")
def change_many(
    context: CurrentContext, *, outing: Words = "", q: Words = "", outcome: Words = "", lens: Words = ""
) -> Response:
    """Make one change to all chosen frames, or to everything a search finds; undoable as one."""
    asked, form = asked_of(outing, q, outcome, lens), BulkForm.read(context.typed)
    set_to, tags, untag, errors = form.changes(bare=context.numbers_in)
    ids = _chosen(context, asked, form)
    if not ids:
        errors = {**errors, "frame": "Choose frames first: tick the box at the left of each."}
    elif form.intent != "delete" and not (set_to or tags or untag):
        errors = {**errors, "frame": "Nothing to change was said. Choose or write something below."}
    if errors:
        search = read_search(asked.q, context.numbers_in, outcome=asked.outcome, lens=asked.lens)
        data = load_log(context.uow, asked, search, None)
        page = log_page(data, asked, search, context.preferences.unit, form=form, errors=errors)
        return context.page("log/outing/page.html", page, status=422)
    many = f"{len(ids)} frame{'' if len(ids) == 1 else 's'}"
    with context.undoable_transaction(f"Deleted {many}" if form.intent == "delete" else f"Changed {many}"):
        for frame in log.frames_called(context.uow, ids):
            if form.intent == "delete":
                log.delete_frame(context.uow, frame.id)
            else:
                log.change_frame(context.uow, changed(frame, set_to, tags, untag))
    return context.back_to(f"/log?{asked.query()}")


def _chosen(context: RequestContext, asked: FrameFilter, form: BulkForm) -> list[int]:
    """Return the keys of the frames that are meant."""
    if not form.every:
        return form.ids
    search = read_search(asked.q, context.numbers_in, outcome=asked.outcome, lens=asked.lens)
    found = log.page_of_frames(context.uow, asked.outing, search, None, MOST_AT_ONCE + 1)
    if len(found) > MOST_AT_ONCE:
        works = f"Narrow the search to {MOST_AT_ONCE} or fewer"
        raise OutOfRangeError("frames", f"more than {MOST_AT_ONCE}", "that is too many for one change", works)
    return [frame.id for frame in found]


@router.post("/log/outings")
def create_outing(context: CurrentContext) -> Response:
    """Begin an outing."""
    name, day, errors = OutingForm.read(context.typed).values(context.now().date())
    if errors:
        raise UnreadableError("outing", name, next(iter(errors.values())).rstrip("."), "Write a name and a day")
    with context.undoable_transaction(f"Began outing “{name}”"):
        id = log.add_outing(context.uow, name, day)
    return context.back_to(f"/log?outing={id}")


@router.post("/log/outings/{id}")
def update_outing(context: CurrentContext, id: int) -> Response:
    """Rename or re-date an outing."""
    name, day, errors = OutingForm.read(context.typed).values(context.now().date())
    if errors:
        raise UnreadableError("outing", name, next(iter(errors.values())).rstrip("."), "Write a name and a day")
    with context.undoable_transaction(f"Changed outing “{name}”"):
        log.change_outing(context.uow, id, name, day)
    return context.back_to(f"/log?outing={id}")


@router.post("/log/outings/{id}/delete")
def delete_outing(context: CurrentContext, id: int) -> Response:
    """Delete an outing with its frames, undoably."""
    label = "Deleted an outing with its frames"
    if sum(log.outcomes_of(context.uow, id).values()) > MANY:
        context.in_bulk("delete outing", id=id, label=label)
    else:
        with context.undoable_transaction(label):
            log.delete_outing(context.uow, id)
    return context.back_to("/log")


@router.get("/log/export.csv")
def export_csv(request: Request, *, outing: Key | None = None) -> Response:
    """Download the log, or one outing of it, as CSV."""
    name = f"welotrope-log{'' if outing is None else f'-{outing}'}.csv"
    return exported(request, "csv", name, "text/csv; charset=utf-8", outing=outing)
