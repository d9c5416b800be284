"""The card of lens slots of a body."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Form
from starlette.responses import Response

from welotrope.core.kit.body import Body
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.sheet import SlotEntry, slot_card
from welotrope.core.units.text import whole_number
from welotrope.store.queries import kit, sheets
from welotrope.web.request.context import CurrentContext

router = APIRouter()


@dataclass(frozen=True)
class SlotsPage:
    """A body's slot card, and every lens with the slot it is in."""

    id: int
    body: Body
    card: list[SlotEntry]
    lenses: list[tuple[int, Lens, int | None]]


@router.get("/kit/bodies/{id}/slots")
def show_slots(context: CurrentContext, id: int) -> Response:
    """Show the slot card of a body."""
    assigned = sheets.slots_of(context.uow, id)
    number_of = {lens_id: number for number, lens_id, _ in assigned}
    lenses = [(lens_id, lens, number_of.get(lens_id)) for lens_id, lens in kit.list_lenses(context.uow)]
    page = SlotsPage(id, kit.get_body(context.uow, id), slot_card(assigned), lenses)
    return context.page("kit/slots/page.html", page)


@router.post("/kit/bodies/{id}/slots")
def put_in_slot(
    context: CurrentContext, id: int, lens: Annotated[int, Form()], *, number: Annotated[str, Form()] = ""
) -> Response:
    """Put a lens's data in a slot, or take it out with an empty number; undoable."""
    slot = whole_number(number, "slot", 1, 50) if number.strip() else None
    with context.undoable_transaction(f"Slot of {kit.get_lens(context.uow, lens).name}: {slot or 'none'}"):
        sheets.put_in_slot(context.uow, id, lens, slot)
    return context.back_to(f"/kit/bodies/{id}/slots")
