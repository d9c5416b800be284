"""/scale/marks: what the depth marks imply."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.ring.depth_marks import MarkRecord
from welotrope.store.queries.ring_records import RecordKind, get_record
from welotrope.web.rooms.scale.kept import keep
from welotrope.web.rooms.scale.marks.context import lead_of, marks_page
from welotrope.web.rooms.scale.marks.form import MarksForm
from welotrope.web.shell.desk import AtDesk, Desk

router = APIRouter()


@router.get("/scale/marks")
def marks(desk: AtDesk) -> Response:
    """Show what the depth marks imply."""
    stored = desk.as_read()
    saved = get_record(desk.book, RecordKind.MARKS, stored.lens_id, stored.id)
    record = saved.record if saved else None
    return _marks(desk, MarksForm.of(record) if record else MarksForm(), [], record)


@router.post("/scale/marks")
def read_marks(desk: AtDesk) -> Response:
    """Work the depth marks out; keep them when asked to."""
    data = desk.typed
    form = MarksForm.read(data)
    setup = desk.as_read().setup
    record, problems = form.record(desk.reads_by(), setup.lens.focal_mm, lead_of(setup))
    if record is not None and form.intent == "keep":
        return keep(desk, RecordKind.MARKS, record, "marks")
    return _marks(desk, form, problems, record)


def _marks(desk: Desk, form: MarksForm, problems: list[str], record: MarkRecord | None) -> Response:
    stored = desk.as_read()
    saved = get_record(desk.book, RecordKind.MARKS, stored.lens_id, stored.id)
    page = marks_page(stored, form, problems, record, saved, desk.preferences.unit)
    return desk.page("scale/marks/page.html", page, status=422 if problems else 200)
