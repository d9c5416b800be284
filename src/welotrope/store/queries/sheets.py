"""Remembered changes to a body's set-up sheet, and what is ticked off."""

from __future__ import annotations

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from welotrope.core.kit.sheet import SheetChange
from welotrope.store.models import BodyRow, SetupRow, SheetLineRow, SheetTickRow
from welotrope.store.rows import fetch


def changes_for(session: Session, body_id: int) -> list[SheetChange]:
    """Return the changes kept for a body, in the order they were made."""
    rows = session.scalars(select(SheetLineRow).where(SheetLineRow.body_id == body_id).order_by(SheetLineRow.id))
    return [SheetChange(row.line, row.text, row.reason, row.dropped) for row in rows]


def keep_change(session: Session, body_id: int, change: SheetChange) -> None:
    """Keep a change of one line, over an earlier one of the same line."""
    fetch(session, BodyRow, "body", body_id)
    query = select(SheetLineRow).where(SheetLineRow.body_id == body_id, SheetLineRow.line == change.line)
    row = session.scalar(query) or SheetLineRow(body_id=body_id, line=change.line)
    row.text, row.reason, row.dropped = change.text, change.reason, change.dropped
    session.add(row)
    session.flush()


def next_own_line(session: Session, body_id: int) -> str:
    """Return an unused id for a line the photographer adds."""
    endings = [change.line.removeprefix("own-") for change in changes_for(session, body_id)]
    numbers = [int(ending) for ending in endings if ending.isascii() and ending.isdigit() and len(ending) < 10]
    return f"own-{max(numbers, default=0) + 1}"


def forget_changes(session: Session, body_id: int) -> None:
    """Drop all changes of a body's sheet."""
    for row in session.scalars(select(SheetLineRow).where(SheetLineRow.body_id == body_id)):
        session.delete(row)
    session.flush()


def ticked(session: Session, setup_id: int, outing_id: int) -> set[str]:
    """Return the lines ticked off for a set-up in an outing (0 without one)."""
    query = select(SheetTickRow.line).where(SheetTickRow.setup_id == setup_id, SheetTickRow.outing_id == outing_id)
    return set(session.scalars(query))


def tick(session: Session, setup_id: int, outing_id: int, line: str, done: bool) -> None:
    """Tick a line off or take the tick back."""
    fetch(session, SetupRow, "set-up", setup_id)
    where = (
        SheetTickRow.setup_id == setup_id, SheetTickRow.outing_id == outing_id, SheetTickRow.line == line,
    )  # fmt: skip
    session.execute(delete(SheetTickRow).where(*where))
    if done:
        session.add(SheetTickRow(setup_id=setup_id, outing_id=outing_id, line=line))
    session.flush()


def clear_ticks(session: Session, setup_id: int, outing_id: int) -> None:
    """Take all ticks of a set-up in an outing back."""
    session.execute(delete(SheetTickRow).where(SheetTickRow.setup_id == setup_id, SheetTickRow.outing_id == outing_id))
