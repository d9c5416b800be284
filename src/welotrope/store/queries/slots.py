"""Which lens's data sits in which slot of a body."""

from __future__ import annotations

from sqlalchemy import select

from welotrope.core.kit.lens import Lens
from welotrope.core.kit.slots import check_slot
from welotrope.store.broken import readable
from welotrope.store.models import BodyRow, LensRow, SlotRow
from welotrope.store.queries.kit import body_of, lens_of
from welotrope.store.rows import fetch, read_as
from welotrope.store.unit_of_work import UnitOfWork


def slots_of(uow: UnitOfWork, body_id: int) -> list[tuple[int, int, Lens]]:
    """Return (number, lens key, lens) of a body's slots, by number."""
    query = (
        select(SlotRow.number, LensRow)
        .join(LensRow, LensRow.id == SlotRow.lens_id)
        .where(SlotRow.body_id == body_id)
        .order_by(SlotRow.number, LensRow.name)
    )
    # A lens that cannot be read is shown as such by the Kit room.
    return readable(uow.sql.execute(query), lambda found: (found[0], found[1].id, lens_of(found[1])))


def put_in_slot(uow: UnitOfWork, body_id: int, lens_id: int, number: int | None) -> None:
    """Put a lens's data in a slot, or take it out with None; another lens there stays and then shares it."""
    body = read_as(fetch(uow, BodyRow, "body", body_id), "body", body_of)
    fetch(uow, LensRow, "lens", lens_id)
    row = uow.sql.scalar(select(SlotRow).where(SlotRow.body_id == body_id, SlotRow.lens_id == lens_id))
    if number is None:
        if row is not None:
            uow.sql.delete(row)
    elif row is None:
        uow.sql.add(SlotRow(body_id=body_id, lens_id=lens_id, number=check_slot(number, body.traits.slots)))
    else:
        row.number = check_slot(number, body.traits.slots)
    uow.sql.flush()
