"""Remembered changes to a body's set-up sheet, and what is ticked off."""

from __future__ import annotations

from sqlalchemy import delete, select

from welotrope.core.kit.sheet import SheetChange
from welotrope.store.models import BodyRow, SetupRow, SheetLineRow, SheetTickRow
from welotrope.store.rows import fetch
from welotrope.store.unit_of_work import UnitOfWork


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
