"""The set-up sheet in the field, and the card of lens slots."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Form
from starlette.responses import Response

from welotrope.core.errors import UnreadableError
from welotrope.core.kit.body import Body
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.sheet import RULES as SHEET_RULES
from welotrope.core.kit.sheet import School, SheetCase, SheetChange, SheetLine, find_slot, sheet_lines
from welotrope.core.kit.slots import SlotEntry, slot_card
from welotrope.core.review.frame import Outing
from welotrope.core.units.numbers import whole_number
from welotrope.core.units.text import check_text
from welotrope.store.queries import kit, log, sheets, slots
from welotrope.web.desk import AtDesk, Desk
from welotrope.web.forms import required_name

router = APIRouter()
LINE_LIMIT = 200
OWN_LINE = re.compile(r"^(?:own-\d{1,9})?$", re.ASCII)


@dataclass(frozen=True)
class SheetPage:
    """The sheet of a set-up with what is ticked for the newest outing."""

    stored: kit.StoredSetup
    school: School
    lines: list[SheetLine]
    done: set[str]
    outing: Outing | None


@dataclass(frozen=True)
class SlotsPage:
    """A body's slot card, and every lens with the slot it is in."""

    id: int
    body: Body
    card: list[SlotEntry]
    lenses: list[tuple[int, Lens, int | None]]


def _sheet(desk: Desk, id: int, school: str) -> SheetPage:
    stored = kit.get_setup(desk.book, id)
    chosen = School(school) if school in set(School) else School.SET
    card = slot_card(slots.slots_of(desk.book, stored.body_id))
    case = SheetCase(stored.setup, chosen, find_slot(card, stored.lens_id))
    outing = next(iter(log.list_outings(desk.book)), None)
    done = sheets.ticked(desk.book, id, outing.id if outing else 0)
    lines = sheet_lines(case, sheets.changes_for(desk.book, stored.body_id))
    return SheetPage(stored, chosen, lines, done, outing)


def _path(id: int, school: str) -> str:
    return f"/kit/setups/{id}/sheet?school={school.replace(' ', '+')}"


@router.get("/kit/setups/{id}/sheet")
def show_sheet(desk: AtDesk, id: int, school: str = School.SET) -> Response:
    """Show the sheet of a set-up for a school."""
    return desk.page("sheet.html", _sheet(desk, id, school), room="kit")


@router.post("/kit/setups/{id}/sheet/tick")
def tick_line(
    desk: AtDesk,
    id: int,
    line: Annotated[str, Form(max_length=40)],
    done: Annotated[str, Form()] = "",
    school: Annotated[str, Form()] = "",
) -> Response:
    """Tick a line off for the newest outing, or take the tick back."""
    outing = next(iter(log.list_outings(desk.book)), None)
    with desk.remember():
        sheets.tick(desk.book, id, outing.id if outing else 0, line, bool(done))
    if desk.wants_fragment:
        return desk.fragment("sheet_lines.html", _sheet(desk, id, school))
    return desk.go(_path(id, school))


@router.post("/kit/setups/{id}/sheet/clear")
def clear_sheet(desk: AtDesk, id: int, school: Annotated[str, Form()] = "") -> Response:
    """Take all ticks back."""
    outing = next(iter(log.list_outings(desk.book)), None)
    with desk.remember():
        sheets.clear_ticks(desk.book, id, outing.id if outing else 0)
    return desk.go(_path(id, school))


@router.post("/kit/setups/{id}/sheet/line")
def change_line(
    desk: AtDesk,
    id: int,
    line: Annotated[str, Form(max_length=40)] = "",
    text: Annotated[str, Form()] = "",
    reason: Annotated[str, Form()] = "",
    drop: Annotated[str, Form()] = "",
    school: Annotated[str, Form()] = "",
) -> Response:
    """Reword, drop or add a line; remembered for the body, undoable."""
    body_id = kit.get_setup(desk.book, id).body_id
    words = "" if drop else required_name(text.strip(), "line", LINE_LIMIT)
    check_text(reason, "reason", LINE_LIMIT)
    if line not in SHEET_RULES and not OWN_LINE.match(line):
        raise UnreadableError("line", line, "the sheet has no such line", "Choose one of its lines, or add one")
    label = "Dropped a line of the sheet" if drop else "Changed the sheet"
    with desk.change(label):
        key = line or sheets.next_own_line(desk.book, body_id)
        sheets.keep_change(desk.book, body_id, SheetChange(key, words, reason.strip(), bool(drop)))
    return desk.back_to(_path(id, school))


@router.post("/kit/setups/{id}/sheet/restore")
def restore_sheet(desk: AtDesk, id: int, school: Annotated[str, Form()] = "") -> Response:
    """Return to the lines the rules give, undoably."""
    with desk.change("Restored the sheet"):
        sheets.forget_changes(desk.book, kit.get_setup(desk.book, id).body_id)
    return desk.back_to(_path(id, school))


@router.get("/kit/bodies/{id}/slots")
def show_slots(desk: AtDesk, id: int) -> Response:
    """Show the slot card of a body."""
    assigned = slots.slots_of(desk.book, id)
    number_of = {lens_id: number for number, lens_id, _ in assigned}
    lenses = [(lens_id, lens, number_of.get(lens_id)) for lens_id, lens in kit.list_lenses(desk.book)]
    page = SlotsPage(id, kit.get_body(desk.book, id), slot_card(assigned), lenses)
    return desk.page("slots.html", page, room="kit")


@router.post("/kit/bodies/{id}/slots")
def put_in_slot(desk: AtDesk, id: int, lens: Annotated[int, Form()], number: Annotated[str, Form()] = "") -> Response:
    """Put a lens's data in a slot, or take it out with an empty number; undoable."""
    slot = whole_number(number, "slot", 1, 50) if number.strip() else None
    with desk.change(f"Slot of {kit.get_lens(desk.book, lens).name}: {slot or 'none'}"):
        slots.put_in_slot(desk.book, id, lens, slot)
    return desk.back_to(f"/kit/bodies/{id}/slots")
