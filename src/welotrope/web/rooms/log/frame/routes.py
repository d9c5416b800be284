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
from welotrope.store.queries import kit, log
from welotrope.web.forms.text_form import key_of
from welotrope.web.rooms.log.frame.context import NewFramePage, frame_page, frame_row, preset_at, roll_options
from welotrope.web.rooms.log.frame.form import FrameForm, outing_options
from welotrope.web.rooms.log.taken_with import taken_with
from welotrope.web.shell.desk import AtDesk, Desk
from welotrope.web.shell.limits import local_path

router = APIRouter()


@router.get("/log/new")
def new_frame(desk: AtDesk) -> Response:
    """Offer to log a frame from where the ring stands."""
    state = desk.ring_state()
    stands = "at" in desk.request.query_params  # elsewhere nobody has set a distance that could be meant
    form = FrameForm.next_of(
        log.last_frame(desk.book, desk.in_hand().id),
        at=format_distance(state.distance_mm, desk.numbers_in) if stands else "",
        exact=repr(float(state.distance_mm)) if stands else "",
        stop=f"{state.stop:g}", preset=preset_at(state, desk.presets()) if stands else "",
        taken_at=desk.now().isoformat(timespec="minutes"),
    )  # fmt: skip
    return _frame_form(desk, form, {}, f"/scale?{state.query}")


@router.post("/log/frames")
def add_frame(desk: AtDesk) -> Response:
    """Log a frame."""
    stored = desk.in_hand()
    data = desk.typed
    form = FrameForm.read(data)
    frame, errors = form.frame(stored, desk.now(), desk.numbers_in)
    back = str(data.get("back", "/log"))
    if frame is None:
        return _frame_form(desk, form, errors, back)
    with desk.change(f"Logged {frame.lens_name} at {form.at}"):
        chosen = key_of(form.outing)
        outing = log.outing_for(desk.book, frame.taken_at.date()) if chosen is None else chosen
        log.add_frame(desk.book, outing, frame)
    return desk.back_to(local_path(back, "/log"))


def _frame_form(desk: Desk, form: FrameForm, errors: dict[str, str], back: str) -> Response:
    stored = desk.in_hand()
    page = NewFramePage(
        form=form, stored=stored, outings=outing_options(log.list_outings(desk.book)[:20]),
        rolls=roll_options(desk.book), errors=errors, back=back,
    )  # fmt: skip
    return desk.page("log/frame/new.html", page, status=422 if errors else 200)


@router.post("/log/frames/{id}/mark")
def mark_frame(desk: AtDesk, id: int, outcome: Annotated[str, Form()] = "") -> Response:
    """Mark what a frame showed; an empty outcome takes the mark off."""
    if outcome and outcome not in set(Outcome):
        raise UnreadableError("result", outcome, "that is not a result", f"Choose one of {', '.join(Outcome)}")
    frame = log.get_frame(desk.book, id)
    with desk.change(f"Marked a frame {outcome or 'as not checked'}"):
        log.change_frame(desk.book, marked(frame, Outcome(outcome) if outcome else None, desk.now()))
    if desk.wants_fragment:
        return desk.fragment("log/frame/marked.html", frame_row(desk.book, id, desk.preferences.unit))
    return desk.back_to(f"/log?outing={frame.outing_id}")


@router.get("/log/frames/{id}")
def edit_frame(desk: AtDesk, id: int) -> Response:
    """Offer a frame for change."""
    frame = log.get_frame(desk.book, id)
    return _edit_form(desk, frame, FrameForm.of(frame, desk.numbers_in), {})


@router.post("/log/frames/{id}")
def update_frame(desk: AtDesk, id: int) -> Response:
    """Store a changed frame."""
    frame = log.get_frame(desk.book, id)
    form = FrameForm.read(desk.typed)
    chosen = key_of(form.setup)
    another = chosen is not None and chosen != frame.setup_id
    stored = kit.find_setup(desk.book, chosen or 0) if another else taken_with(desk.book, frame)
    changed, errors = form.change(frame, stored, desk.numbers_in)
    if changed is None:
        return _edit_form(desk, frame, form, errors)
    if changed.outcome is not frame.outcome and changed.taken_at == frame.taken_at:
        changed = marked(replace(changed, outcome=frame.outcome), changed.outcome, desk.now())
    with desk.change("Changed a frame"):
        log.change_frame(desk.book, changed)
    return desk.back_to(f"/log?outing={changed.outing_id}")


def _edit_form(desk: Desk, frame: Frame, form: FrameForm, errors: dict[str, str]) -> Response:
    stored = taken_with(desk.book, frame)
    page = frame_page(desk.book, frame, form, errors, desk.preferences.unit, stored)
    return desk.page("log/frame/page.html", page, status=422 if errors else 200)


@router.post("/log/frames/{id}/delete")
def delete_frame(desk: AtDesk, id: int) -> Response:
    """Delete a frame, undoably."""
    frame = log.get_frame(desk.book, id)
    with desk.change("Deleted a frame"):
        log.delete_frame(desk.book, id)
    return desk.back_to(f"/log?outing={frame.outing_id}")
