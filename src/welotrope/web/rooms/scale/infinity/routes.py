"""/scale/infinity: where infinity lies."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.store.queries.ring_records import RecordKind, get_record
from welotrope.web.rooms.scale.infinity.context import infinity_page
from welotrope.web.rooms.scale.infinity.form import InfinityForm
from welotrope.web.rooms.scale.kept import keep
from welotrope.web.shell.desk import AtDesk

router = APIRouter()


@router.get("/scale/infinity")
def infinity(desk: AtDesk) -> Response:
    """Show where infinity lies."""
    stored = desk.in_hand()
    saved = get_record(desk.book, RecordKind.INFINITY, stored.lens_id, stored.id)
    form = InfinityForm.of(saved.record) if saved else InfinityForm()
    return desk.page("scale/infinity/page.html", infinity_page(stored, form, [], saved, desk.preferences.unit))


@router.post("/scale/infinity")
def sight_infinity(desk: AtDesk) -> Response:
    """Keep sightings of infinity."""
    data = desk.typed
    form = InfinityForm.read(data)
    stored = desk.as_read()
    record, problems = form.record(desk.reads_by())
    if record is not None:
        return keep(desk, RecordKind.INFINITY, record, "infinity")
    saved = get_record(desk.book, RecordKind.INFINITY, stored.lens_id, stored.id)
    page = infinity_page(desk.in_hand(), form, problems, saved, desk.preferences.unit)
    return desk.page("scale/infinity/page.html", page, status=422)
