"""What is recorded of a ring besides its readings: kept and forgotten the same way for every kind."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.store.queries.ring_records import Record, RecordKind, forget_record, save_record
from welotrope.web.request.context import CurrentContext, RequestContext

router = APIRouter()
_PAGES = {"marks": RecordKind.MARKS, "infinity": RecordKind.INFINITY, "shift": RecordKind.SHIFT}
_NAMES = {RecordKind.MARKS: "depth marks", RecordKind.INFINITY: "infinity", RecordKind.SHIFT: "focus shift"}


@router.post("/scale/{page}/forget")
def forget(context: CurrentContext, page: str) -> Response:
    """Forget a record, undoably."""
    stored, kind = context.selected_setup(), _PAGES.get(page)
    if kind is None:
        return context.go("/scale")
    with context.undoable_transaction(f"Forgot the {_NAMES[kind]} of {stored.setup.lens.name}"):
        forget_record(context.uow, kind, stored.lens_id, stored.id)
    return context.back_to(f"/scale/{page}")


def keep(context: RequestContext, kind: RecordKind, record: Record, page: str) -> Response:
    """Keep a record of the ring in hand, undoably, and go back to its page."""
    stored = context.selected_setup()
    with context.undoable_transaction(f"Saved the {_NAMES[kind]} of {stored.setup.lens.name}"):
        save_record(context.uow, kind, stored.lens_id, stored.id, record, context.now().date())
    return context.back_to(f"/scale/{page}")
