"""/scale/shift: what the plane does as the lens stops down."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.store.queries.ring_records import RecordKind, get_record
from welotrope.web.rooms.scale.kept import keep
from welotrope.web.rooms.scale.shift.context import shift_page
from welotrope.web.rooms.scale.shift.form import ShiftForm
from welotrope.web.shell.desk import AtDesk

router = APIRouter()


@router.get("/scale/shift")
def shift(desk: AtDesk) -> Response:
    """Show the focus shift per stop."""
    stored = desk.as_read()
    saved = get_record(desk.book, RecordKind.SHIFT, stored.lens_id, stored.id)
    record = saved.record if saved else None
    form = ShiftForm.of(record) if record else ShiftForm.blank(stored.setup.lens.stops)
    return desk.page("scale/shift/page.html", shift_page(stored, form, [], record, saved, desk.preferences.unit))


@router.post("/scale/shift")
def try_shift(desk: AtDesk) -> Response:
    """Work trials of focus shift out; keep them when asked to."""
    data = desk.typed
    form = ShiftForm.read(data)
    stored = desk.as_read()
    record, problems = form.record(desk.reads_by())
    if record is not None and form.intent == "keep":
        return keep(desk, RecordKind.SHIFT, record, "shift")
    saved = get_record(desk.book, RecordKind.SHIFT, stored.lens_id, stored.id)
    page = shift_page(stored, form, problems, record, saved, desk.preferences.unit)
    return desk.page("scale/shift/page.html", page, status=422 if problems else 200)
