"""The set-up sheet in the field."""

from __future__ import annotations

import re
from typing import Annotated

from fastapi import APIRouter, Form
from starlette.responses import Response

from welotrope.core.errors import UnreadableError
from welotrope.core.kit.sheet import SHEET_RULES, School, SheetChange
from welotrope.core.units.text import check_text
from welotrope.store.queries import kit, log, sheets
from welotrope.web.forms.text_form import required_name
from welotrope.web.rooms.kit.sheet.context import sheet_page
from welotrope.web.shell.desk import AtDesk

router = APIRouter()
LINE_LIMIT = 200
OWN_LINE = re.compile(r"^(?:own-\d{1,9})?$", re.ASCII)


def _path(id: int, school: str) -> str:
    return f"/kit/setups/{id}/sheet?school={school.replace(' ', '+')}"


@router.get("/kit/setups/{id}/sheet")
def showsheet_page(desk: AtDesk, id: int, school: str = School.SET) -> Response:
    """Show the sheet of a set-up for a school."""
    return desk.page("kit/sheet/page.html", sheet_page(desk, id, school))


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
        sheets.tick(desk.book, id, outing.id if outing else 0, line, done=bool(done))
    if desk.wants_fragment:
        return desk.fragment("kit/sheet/lines.html", sheet_page(desk, id, school))
    return desk.go(_path(id, school))


@router.post("/kit/setups/{id}/sheet/clear")
def clearsheet_page(desk: AtDesk, id: int, school: Annotated[str, Form()] = "") -> Response:
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
def restoresheet_page(desk: AtDesk, id: int, school: Annotated[str, Form()] = "") -> Response:
    """Return to the lines the rules give, undoably."""
    with desk.change("Restored the sheet"):
        sheets.forget_changes(desk.book, kit.get_setup(desk.book, id).body_id)
    return desk.back_to(_path(id, school))
