"""/scale/marks, /scale/infinity and /scale/shift: what else is recorded of a ring."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.ring.depth_marks import MarkRecord
from welotrope.store.queries.ring_records import Record, RecordKind, forget_record, get_record, save_record
from welotrope.web.desk import AtDesk, Desk
from welotrope.web.rooms.scale.record_contexts import infinity_page, lead_of, marks_page, shift_page
from welotrope.web.rooms.scale.record_forms import InfinityForm, MarksForm, ShiftForm

router = APIRouter()
_PAGES = {"marks": RecordKind.MARKS, "infinity": RecordKind.INFINITY, "shift": RecordKind.SHIFT}
_NAMES = {RecordKind.MARKS: "depth marks", RecordKind.INFINITY: "infinity", RecordKind.SHIFT: "focus shift"}


@router.get("/scale/marks")
def marks(desk: AtDesk) -> Response:
    """Show what the depth marks imply."""
    stored = desk.in_hand()
    saved = get_record(desk.session, RecordKind.MARKS, stored.lens_id, stored.id)
    record = saved.record if saved else None
    return _marks(desk, MarksForm.of(record) if record else MarksForm(), [], record)


@router.post("/scale/marks")
def read_marks(desk: AtDesk) -> Response:
    """Work the depth marks out; keep them when asked to."""
    data = desk.typed
    form = MarksForm.read(data)
    setup = desk.in_hand().setup
    record, problems = form.record(desk.numbers_in, setup.lens.focal_mm, lead_of(setup))
    if record is not None and form.intent == "keep":
        return _keep(desk, RecordKind.MARKS, record, "marks")
    return _marks(desk, form, problems, record)


def _marks(desk: Desk, form: MarksForm, problems: list[str], record: MarkRecord | None) -> Response:
    stored = desk.in_hand()
    saved = get_record(desk.session, RecordKind.MARKS, stored.lens_id, stored.id)
    page = marks_page(stored, form, problems, record, saved, desk.preferences.unit)
    return desk.page("marks.html", page, room="scale", status=422 if problems else 200)


@router.get("/scale/infinity")
def infinity(desk: AtDesk) -> Response:
    """Show where infinity lies."""
    stored = desk.in_hand()
    saved = get_record(desk.session, RecordKind.INFINITY, stored.lens_id, stored.id)
    form = InfinityForm.of(saved.record) if saved else InfinityForm()
    return desk.page("infinity.html", infinity_page(stored, form, [], saved, desk.preferences.unit), room="scale")


@router.post("/scale/infinity")
def sight_infinity(desk: AtDesk) -> Response:
    """Keep sightings of infinity."""
    data = desk.typed
    form = InfinityForm.read(data)
    stored = desk.in_hand()
    record, problems = form.record(desk.numbers_in, stored.setup.mm_per_degree)
    if record is not None:
        return _keep(desk, RecordKind.INFINITY, record, "infinity")
    saved = get_record(desk.session, RecordKind.INFINITY, stored.lens_id, stored.id)
    page = infinity_page(stored, form, problems, saved, desk.preferences.unit)
    return desk.page("infinity.html", page, room="scale", status=422)


@router.get("/scale/shift")
def shift(desk: AtDesk) -> Response:
    """Show the focus shift per stop."""
    stored = desk.in_hand()
    saved = get_record(desk.session, RecordKind.SHIFT, stored.lens_id, stored.id)
    record = saved.record if saved else None
    form = ShiftForm.of(record) if record else ShiftForm()
    return desk.page("shift.html", shift_page(stored, form, [], record, saved, desk.preferences.unit), room="scale")


@router.post("/scale/shift")
def try_shift(desk: AtDesk) -> Response:
    """Work trials of focus shift out; keep them when asked to."""
    data = desk.typed
    form = ShiftForm.read(data)
    stored = desk.in_hand()
    record, problems = form.record(stored.setup.mm_per_degree)
    if record is not None and form.intent == "keep":
        return _keep(desk, RecordKind.SHIFT, record, "shift")
    saved = get_record(desk.session, RecordKind.SHIFT, stored.lens_id, stored.id)
    page = shift_page(stored, form, problems, record, saved, desk.preferences.unit)
    return desk.page("shift.html", page, room="scale", status=422 if problems else 200)


@router.post("/scale/{page}/forget")
def forget(desk: AtDesk, page: str) -> Response:
    """Forget a record, undoably."""
    stored, kind = desk.in_hand(), _PAGES.get(page)
    if kind is None:
        return desk.go("/scale")
    with desk.change(f"Forgot the {_NAMES[kind]} of {stored.setup.lens.name}"):
        forget_record(desk.session, kind, stored.lens_id, stored.id)
    return desk.back_to(f"/scale/{page}")


def _keep(desk: Desk, kind: RecordKind, record: Record, page: str) -> Response:
    stored = desk.in_hand()
    with desk.change(f"Kept the {_NAMES[kind]} of {stored.setup.lens.name}"):
        save_record(desk.session, kind, stored.lens_id, stored.id, record, desk.now().date())
    return desk.back_to(f"/scale/{page}")
