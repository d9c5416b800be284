"""/scale/infinity: where infinity lies."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.store.queries.ring_records import RecordKind, get_record
from welotrope.web.request.context import CurrentContext
from welotrope.web.rooms.scale.infinity.context import infinity_page
from welotrope.web.rooms.scale.infinity.form import InfinityForm
from welotrope.web.rooms.scale.kept import keep

router = APIRouter()


@router.get("/scale/infinity")
def infinity(context: CurrentContext) -> Response:
    """Show where infinity lies."""
    stored = context.selected_setup()
    saved = get_record(context.uow, RecordKind.INFINITY, stored.lens_id, stored.id)
    form = InfinityForm.of(saved.record) if saved else InfinityForm()
    return context.page("scale/infinity/page.html", infinity_page(stored, form, [], saved, context.preferences.unit))


@router.post("/scale/infinity")
def sight_infinity(context: CurrentContext) -> Response:
    """Keep sightings of infinity."""
    data = context.typed
    form = InfinityForm.read(data)
    stored = context.setup_as_read()
    record, problems = form.record(context.form_input())
    if record is not None:
        return keep(context, RecordKind.INFINITY, record, "infinity")
    saved = get_record(context.uow, RecordKind.INFINITY, stored.lens_id, stored.id)
    page = infinity_page(context.selected_setup(), form, problems, saved, context.preferences.unit)
    return context.page("scale/infinity/page.html", page, status=422)
