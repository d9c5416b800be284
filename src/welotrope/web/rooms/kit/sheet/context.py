"""What the set-up sheet shows."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.kit.sheet import School, SheetCase, SheetLine, find_slot, sheet_lines
from welotrope.core.kit.slots import slot_card
from welotrope.core.review.frame import Outing
from welotrope.store.queries import kit, log, sheets, slots
from welotrope.web.request.context import RequestContext


@dataclass(frozen=True)
class SheetPage:
    """The sheet of a set-up with what is ticked for the newest outing."""

    stored: kit.StoredSetup
    school: School
    lines: list[SheetLine]
    done: set[str]
    outing: Outing | None


def sheet_page(context: RequestContext, id: int, school: str) -> SheetPage:
    """Gather the sheet of a set-up for a school."""
    stored = kit.get_setup(context.uow, id)
    chosen = School(school) if school in set(School) else School.SET
    card = slot_card(slots.slots_of(context.uow, stored.body_id))
    case = SheetCase(stored.setup, chosen, find_slot(card, stored.lens_id))
    outing = next(iter(log.list_outings(context.uow)), None)
    done = sheets.ticked(context.uow, id, outing.id if outing else 0)
    lines = sheet_lines(case, changes=sheets.changes_for(context.uow, stored.body_id))
    return SheetPage(stored, chosen, lines, done, outing)
