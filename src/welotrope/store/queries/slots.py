"""Which lens's data sits in which slot of a body."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from welotrope.core.kit.lens import Lens
from welotrope.core.kit.slots import check_slot
from welotrope.store.models import BodyRow, LensRow, SlotRow
from welotrope.store.queries.kit import body_of, lens_of
from welotrope.store.rows import fetch


def slots_of(session: Session, body_id: int) -> list[tuple[int, int, Lens]]:
    """Return (number, lens key, lens) of a body's slots, by number."""
    query = (
        select(SlotRow.number, LensRow)
        .join(LensRow, LensRow.id == SlotRow.lens_id)
        .where(SlotRow.body_id == body_id)
        .order_by(SlotRow.number, LensRow.name)
    )
    return [(number, row.id, lens_of(row)) for number, row in session.execute(query)]


def put_in_slot(session: Session, body_id: int, lens_id: int, number: int | None) -> None:
    """Put a lens's data in a slot, or take it out with None; another lens there stays and then shares it."""
    body = body_of(fetch(session, BodyRow, "body", body_id))
    fetch(session, LensRow, "lens", lens_id)
    row = session.scalar(select(SlotRow).where(SlotRow.body_id == body_id, SlotRow.lens_id == lens_id))
    if number is None:
        if row is not None:
            session.delete(row)
    elif row is None:
        session.add(SlotRow(body_id=body_id, lens_id=lens_id, number=check_slot(number, body.traits.slots)))
    else:
        row.number = check_slot(number, body.traits.slots)
    session.flush()
