"""/scale/infinity: where infinity lies."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.store.queries.ring_records import RecordKind, get_record
from welotrope.web.rooms.scale.infinity.context import infinity_page
from welotrope.web.rooms.scale.infinity.form import InfinityForm
from welotrope.web.rooms.scale.kept import keep
from welotrope.web.shell.request_context import CurrentContext

router = APIRouter()


@router.get("/scale/infinity")
def infinity(context: CurrentContext) -> Response:
    """Show where infinity lies."""
    stored = context.in_hand()
    saved = get_record(context.uow, RecordKind.INFINITY, stored.lens_id, stored.id)
    form = InfinityForm.of(saved.record) if saved else InfinityForm()
    return context.page("scale/infinity/page.html", infinity_page(stored, form, [], saved, context.preferences.unit))


@router.post("/scale/infinity")
def sight_infinity(context: CurrentContext) -> Response:
    """Keep sightings of infinity."""
    data = context.typed
    form = InfinityForm.read(data)
    stored = context.as_read()
    record, problems = form.record(context.reads_by())
    if record is not None:
        return keep(context, RecordKind.INFINITY, record, "infinity")
    saved = get_record(context.uow, RecordKind.INFINITY, stored.lens_id, stored.id)
    page = infinity_page(context.in_hand(), form, problems, saved, context.preferences.unit)
    return context.page("scale/infinity/page.html", page, status=422)
