"""The set-up sheet in the field."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Form
from starlette.responses import Response

from welotrope.core.errors import UnreadableError
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.sheet import (
    SHEET_RULES,
    School,
    SheetCase,
    SheetChange,
    SheetLine,
    find_slot,
    sheet_lines,
    slot_card,
)
from welotrope.core.review.frame import Outing
from welotrope.core.units.text import check_text
from welotrope.store.queries import kit, log, sheets
from welotrope.store.unit_of_work import UnitOfWork
from welotrope.web.forms import required_name
from welotrope.web.request.context import CurrentContext


@dataclass(frozen=True)
class SheetPage:
    """The sheet of a set-up with what is ticked for the newest outing."""

    stored: kit.StoredSetup
    school: School
    lines: list[SheetLine]
    done: set[str]
    outing: Outing | None


@dataclass(frozen=True, kw_only=True)
class SheetData:
    """What is kept of a set-up's sheet: the slots of its body, own lines, and what is ticked for the newest outing."""

    stored: kit.StoredSetup
    kept_slots: Sequence[tuple[int, int, Lens]]
    changes: Sequence[SheetChange]
    outing: Outing | None
    done: set[str]


def load_sheet(uow: UnitOfWork, id: int) -> SheetData:
    """Read what is kept of a set-up's sheet."""
    stored = kit.get_setup(uow, id)
    outing = next(iter(log.list_outings(uow)), None)
    return SheetData(
        stored=stored, kept_slots=sheets.slots_of(uow, stored.body_id),
        changes=sheets.changes_for(uow, stored.body_id), outing=outing,
        done=sheets.ticked(uow, id, outing.id if outing else 0),
    )  # fmt: skip


def sheet_page(data: SheetData, school: str) -> SheetPage:
    """Return the sheet of a set-up for a school."""
    stored = data.stored
    chosen = School(school) if school in set(School) else School.SET
    case = SheetCase(stored.setup, chosen, find_slot(slot_card(data.kept_slots), stored.lens_id))
    return SheetPage(stored, chosen, sheet_lines(case, changes=data.changes), data.done, data.outing)


router = APIRouter()
LINE_LIMIT = 200
OWN_LINE = re.compile(r"^(?:own-\d{1,9})?$", re.ASCII)


def _path(id: int, school: str) -> str:
    return f"/kit/setups/{id}/sheet?school={school.replace(' ', '+')}"


@router.get("/kit/setups/{id}/sheet")
def show(context: CurrentContext, id: int, *, school: str = School.SET) -> Response:
    """Show the sheet of a set-up for a school."""
    return context.page("kit/sheet/page.html", sheet_page(load_sheet(context.uow, id), school))


@router.post("/kit/setups/{id}/sheet/tick")
def tick_line(
    context: CurrentContext,
    id: int,
    line: Annotated[str, Form(max_length=40)],
    *,
    done: Annotated[str, Form()] = "",
    school: Annotated[str, Form()] = "",
) -> Response:
    """Tick a line off for the newest outing, or take the tick back."""
    outing = next(iter(log.list_outings(context.uow)), None)
    with context.transaction():
        sheets.tick(context.uow, id, outing.id if outing else 0, line, done=bool(done))
    if context.wants_fragment:
        return context.fragment("kit/sheet/lines.html", sheet_page(load_sheet(context.uow, id), school))
    return context.go(_path(id, school))


@router.post("/kit/setups/{id}/sheet/clear")
def clear_ticks(context: CurrentContext, id: int, *, school: Annotated[str, Form()] = "") -> Response:
    """Take all ticks back."""
    outing = next(iter(log.list_outings(context.uow)), None)
    with context.transaction():
        sheets.clear_ticks(context.uow, id, outing.id if outing else 0)
    return context.go(_path(id, school))


@router.post("/kit/setups/{id}/sheet/line")
def change_line(
    context: CurrentContext,
    id: int,
    *,
    line: Annotated[str, Form(max_length=40)] = "",
    text: Annotated[str, Form()] = "",
    reason: Annotated[str, Form()] = "",
    drop: Annotated[str, Form()] = "",
    school: Annotated[str, Form()] = "",
) -> Response:
    """Reword, drop or add a line; remembered for the body, undoable."""
    body_id = kit.get_setup(context.uow, id).body_id
    words = "" if drop else required_name(text.strip(), "line", limit=LINE_LIMIT)
    check_text(reason, "reason", LINE_LIMIT)
    if line not in SHEET_RULES and not OWN_LINE.match(line):
        raise UnreadableError("line", line, "the sheet has no such line", "Choose one of its lines, or add one")
    label = "Dropped a line of the sheet" if drop else "Changed the sheet"
    with context.undoable_transaction(label):
        key = line or sheets.next_own_line(context.uow, body_id)
        sheets.keep_change(context.uow, body_id, SheetChange(key, words, reason.strip(), bool(drop)))
    return context.back_to(_path(id, school))


@router.post("/kit/setups/{id}/sheet/restore")
def restore(context: CurrentContext, id: int, *, school: Annotated[str, Form()] = "") -> Response:
    """Return to the lines the rules give, undoably."""
    with context.undoable_transaction("Restored the sheet"):
        sheets.forget_changes(context.uow, kit.get_setup(context.uow, id).body_id)
    return context.back_to(_path(id, school))
