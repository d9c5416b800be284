"""/scale/shift: what the plane does as the lens stops down."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.store.queries.ring_records import RecordKind, get_record
from welotrope.web.request.context import CurrentContext
from welotrope.web.rooms.scale.kept import keep
from welotrope.web.rooms.scale.shift.context import shift_page
from welotrope.web.rooms.scale.shift.form import ShiftForm

router = APIRouter()


@router.get("/scale/shift")
def shift(context: CurrentContext) -> Response:
    """Show the focus shift per stop."""
    stored = context.setup_as_read()
    saved = get_record(context.uow, RecordKind.SHIFT, stored.lens_id, stored.id)
    record = saved.record if saved else None
    form = ShiftForm.of(record) if record else ShiftForm.blank(stored.setup.lens.stops)
    return context.page("scale/shift/page.html", shift_page(stored, form, [], record, saved, context.preferences.unit))


@router.post("/scale/shift")
def try_shift(context: CurrentContext) -> Response:
    """Work trials of focus shift out; keep them when asked to."""
    data = context.typed
    form = ShiftForm.read(data)
    stored = context.setup_as_read()
    record, problems = form.record(context.form_input())
    if record is not None and form.intent == "keep":
        return keep(context, RecordKind.SHIFT, record, "shift")
    saved = get_record(context.uow, RecordKind.SHIFT, stored.lens_id, stored.id)
    page = shift_page(stored, form, problems, record, saved, context.preferences.unit)
    return context.page("scale/shift/page.html", page, status=422 if problems else 200)
