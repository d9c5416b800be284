"""Frames: logging, changing and marking one."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated

from fastapi import APIRouter, Form
from starlette.responses import Response

from welotrope.core.errors import UnreadableError
from welotrope.core.review.frame import Frame, marked
from welotrope.core.review.outcomes import Outcome
from welotrope.core.units.distance import format_distance
from welotrope.store.queries import kit, log, rolls
from welotrope.web.forms.text_form import key_of
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.request.limits import local_path
from welotrope.web.rooms.log.frame.context import (
    NewFramePage,
    frame_page,
    frame_row,
    load_choices,
    preset_at,
    roll_options,
)
from welotrope.web.rooms.log.frame.form import FrameForm, outing_options
from welotrope.web.rooms.log.taken_with import taken_with

router = APIRouter()


@router.get("/log/new")
def new_frame(context: CurrentContext) -> Response:
    """Offer to log a frame from where the ring stands."""
    state = context.ring_state()
    stands = "at" in context.request.query_params  # elsewhere nobody has set a distance that could be meant
    form = FrameForm.next_of(
        log.last_frame(context.uow, context.selected_setup().id),
        at=format_distance(state.distance_mm, context.numbers_in) if stands else "",
        exact=repr(float(state.distance_mm)) if stands else "",
        stop=f"{state.stop:g}", preset=preset_at(state, context.presets()) if stands else "",
        taken_at=context.now().isoformat(timespec="minutes"),
    )  # fmt: skip
    return _frame_form(context, form, {}, f"/scale?{state.query}")


@router.post("/log/frames")
def add_frame(context: CurrentContext) -> Response:
    """Log a frame."""
    stored = context.selected_setup()
    data = context.typed
    form = FrameForm.read(data)
    frame, errors = form.frame(stored, context.now(), context.numbers_in)
    back = str(data.get("back", "/log"))
    if frame is None:
        return _frame_form(context, form, errors, back)
    with context.undoable_transaction(f"Logged {frame.lens_name} at {form.at}"):
        chosen = key_of(form.outing)
        outing = log.outing_for(context.uow, frame.taken_at.date()) if chosen is None else chosen
        log.add_frame(context.uow, outing, frame)
    return context.back_to(local_path(back, otherwise="/log"))


def _frame_form(context: RequestContext, form: FrameForm, errors: dict[str, str], back: str) -> Response:
    stored = context.selected_setup()
    page = NewFramePage(
        form=form, stored=stored, outings=outing_options(log.list_outings(context.uow)[:20]),
        rolls=roll_options(rolls.roll_names(context.uow)), errors=errors, back=back,
    )  # fmt: skip
    return context.page("log/frame/new.html", page, status=422 if errors else 200)


@router.post("/log/frames/{id}/mark")
def mark_frame(context: CurrentContext, id: int, *, outcome: Annotated[str, Form()] = "") -> Response:
    """Mark what a frame showed; an empty outcome takes the mark off."""
    if outcome and outcome not in set(Outcome):
        raise UnreadableError("result", outcome, "that is not a result", f"Choose one of {', '.join(Outcome)}")
    frame = log.get_frame(context.uow, id)
    with context.undoable_transaction(f"Marked a frame {outcome or 'as not checked'}"):
        log.change_frame(context.uow, marked(frame, Outcome(outcome) if outcome else None, context.now()))
    if context.wants_fragment:
        return context.fragment("log/frame/marked.html", frame_row(context.uow, id, context.preferences.unit))
    return context.back_to(f"/log?outing={frame.outing_id}")


@router.get("/log/frames/{id}")
def edit_frame(context: CurrentContext, id: int) -> Response:
    """Offer a frame for change."""
    frame = log.get_frame(context.uow, id)
    return _edit_form(context, frame, FrameForm.of_frame(frame, context.numbers_in), {})


@router.post("/log/frames/{id}")
def update_frame(context: CurrentContext, id: int) -> Response:
    """Store a changed frame."""
    frame = log.get_frame(context.uow, id)
    form = FrameForm.read(context.typed)
    chosen = key_of(form.setup)
    another = chosen is not None and chosen != frame.setup_id
    stored = kit.find_setup(context.uow, chosen or 0) if another else taken_with(context.uow, frame)
    changed, errors = form.change(frame, stored, context.numbers_in)
    if changed is None:
        return _edit_form(context, frame, form, errors)
    if changed.outcome is not frame.outcome and changed.taken_at == frame.taken_at:
        changed = marked(replace(changed, outcome=frame.outcome), changed.outcome, context.now())
    with context.undoable_transaction("Changed a frame"):
        log.change_frame(context.uow, changed)
    return context.back_to(f"/log?outing={changed.outing_id}")


def _edit_form(context: RequestContext, frame: Frame, form: FrameForm, errors: dict[str, str]) -> Response:
    stored = taken_with(context.uow, frame)
    page = frame_page(load_choices(context.uow), frame, form, errors, context.preferences.unit, stored)
    return context.page("log/frame/page.html", page, status=422 if errors else 200)


@router.post("/log/frames/{id}/delete")
def delete_frame(context: CurrentContext, id: int) -> Response:
    """Delete a frame, undoably."""
    frame = log.get_frame(context.uow, id)
    with context.undoable_transaction("Deleted a frame"):
        log.delete_frame(context.uow, id)
    return context.back_to(f"/log?outing={frame.outing_id}")
