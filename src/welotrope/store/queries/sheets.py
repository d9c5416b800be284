"""What a body's set-up sheet remembers: changes, ticks, and which lens's data sits in which slot."""

from __future__ import annotations

from sqlalchemy import delete, select

from welotrope.core.kit.lens import Lens
from welotrope.core.kit.sheet import SheetChange, check_slot
from welotrope.store.errors import readable
from welotrope.store.models import BodyRow, LensRow, SetupRow, SheetLineRow, SheetTickRow, SlotRow
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


def changes_for(uow: UnitOfWork, body_id: int) -> list[SheetChange]:
    """Return the changes kept for a body, in the order they were made."""
    rows = uow.sql.scalars(select(SheetLineRow).where(SheetLineRow.body_id == body_id).order_by(SheetLineRow.id))
    return [SheetChange(row.line, row.text, row.reason, row.dropped) for row in rows]


def keep_change(uow: UnitOfWork, body_id: int, change: SheetChange) -> None:
    """Keep a change of one line, over an earlier one of the same line."""
    fetch(uow, BodyRow, "body", body_id)
    query = select(SheetLineRow).where(SheetLineRow.body_id == body_id, SheetLineRow.line == change.line)
    row = uow.sql.scalar(query) or SheetLineRow(body_id=body_id, line=change.line)
    row.text, row.reason, row.dropped = change.text, change.reason, change.dropped
    uow.sql.add(row)
    uow.sql.flush()


def next_own_line(uow: UnitOfWork, body_id: int) -> str:
    """Return an unused id for a line the photographer adds."""
    endings = [change.line.removeprefix("own-") for change in changes_for(uow, body_id)]
    numbers = [int(ending) for ending in endings if ending.isascii() and ending.isdigit() and len(ending) < 10]
    return f"own-{max(numbers, default=0) + 1}"


def forget_changes(uow: UnitOfWork, body_id: int) -> None:
    """Drop all changes of a body's sheet."""
    for row in uow.sql.scalars(select(SheetLineRow).where(SheetLineRow.body_id == body_id)):
        uow.sql.delete(row)
    uow.sql.flush()


def ticked(uow: UnitOfWork, setup_id: int, outing_id: int) -> set[str]:
    """Return the lines ticked off for a set-up in an outing (0 without one)."""
    query = select(SheetTickRow.line).where(SheetTickRow.setup_id == setup_id, SheetTickRow.outing_id == outing_id)
    return set(uow.sql.scalars(query))


def tick(uow: UnitOfWork, setup_id: int, outing_id: int, line: str, *, done: bool) -> None:
    """Tick a line off or take the tick back."""
    fetch(uow, SetupRow, "set-up", setup_id)
    where = (
        SheetTickRow.setup_id == setup_id, SheetTickRow.outing_id == outing_id, SheetTickRow.line == line,
    )  # fmt: skip
    uow.sql.execute(delete(SheetTickRow).where(*where))
    if done:
        uow.sql.add(SheetTickRow(setup_id=setup_id, outing_id=outing_id, line=line))
    uow.sql.flush()


def clear_ticks(uow: UnitOfWork, setup_id: int, outing_id: int) -> None:
    """Take all ticks of a set-up in an outing back."""
    uow.sql.execute(delete(SheetTickRow).where(SheetTickRow.setup_id == setup_id, SheetTickRow.outing_id == outing_id))
