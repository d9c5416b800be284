"""/scale/marks: what the depth marks imply."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.ring.depth_marks import MarkRecord
from welotrope.store.queries.ring_records import RecordKind, get_record
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.rooms.scale.kept import keep
from welotrope.web.rooms.scale.marks.context import lead_of, marks_page
from welotrope.web.rooms.scale.marks.form import MarksForm

router = APIRouter()


@router.get("/scale/marks")
def marks(context: CurrentContext) -> Response:
    """Show what the depth marks imply."""
    stored = context.setup_as_read()
    saved = get_record(context.uow, RecordKind.MARKS, stored.lens_id, stored.id)
    record = saved.record if saved else None
    return _marks(context, MarksForm.of(record) if record else MarksForm(), [], record)


@router.post("/scale/marks")
def read_marks(context: CurrentContext) -> Response:
    """Work the depth marks out; keep them when asked to."""
    data = context.typed
    form = MarksForm.read(data)
    setup = context.setup_as_read().setup
    record, problems = form.record(context.form_input(), setup.lens.focal_mm, lead_of(setup))
    if record is not None and form.intent == "keep":
        return keep(context, RecordKind.MARKS, record, "marks")
    return _marks(context, form, problems, record)


def _marks(context: RequestContext, form: MarksForm, problems: list[str], record: MarkRecord | None) -> Response:
    stored = context.setup_as_read()
    saved = get_record(context.uow, RecordKind.MARKS, stored.lens_id, stored.id)
    page = marks_page(stored, form, problems, record, saved, context.preferences.unit)
    return context.page("scale/marks/page.html", page, status=422 if problems else 200)
