"""Remembered changes to a body's set-up sheet, and what is ticked off."""

from __future__ import annotations

from sqlalchemy import delete, select

from welotrope.core.kit.sheet import SheetChange
from welotrope.store.book import Book
from welotrope.store.models import BodyRow, SetupRow, SheetLineRow, SheetTickRow
from welotrope.store.rows import fetch


def changes_for(book: Book, body_id: int) -> list[SheetChange]:
    """Return the changes kept for a body, in the order they were made."""
    rows = book.sql.scalars(select(SheetLineRow).where(SheetLineRow.body_id == body_id).order_by(SheetLineRow.id))
    return [SheetChange(row.line, row.text, row.reason, row.dropped) for row in rows]


def keep_change(book: Book, body_id: int, change: SheetChange) -> None:
    """Keep a change of one line, over an earlier one of the same line."""
    fetch(book, BodyRow, "body", body_id)
    query = select(SheetLineRow).where(SheetLineRow.body_id == body_id, SheetLineRow.line == change.line)
    row = book.sql.scalar(query) or SheetLineRow(body_id=body_id, line=change.line)
    row.text, row.reason, row.dropped = change.text, change.reason, change.dropped
    book.sql.add(row)
    book.sql.flush()


def next_own_line(book: Book, body_id: int) -> str:
    """Return an unused id for a line the photographer adds."""
    endings = [change.line.removeprefix("own-") for change in changes_for(book, body_id)]
    numbers = [int(ending) for ending in endings if ending.isascii() and ending.isdigit() and len(ending) < 10]
    return f"own-{max(numbers, default=0) + 1}"


def forget_changes(book: Book, body_id: int) -> None:
    """Drop all changes of a body's sheet."""
    for row in book.sql.scalars(select(SheetLineRow).where(SheetLineRow.body_id == body_id)):
        book.sql.delete(row)
    book.sql.flush()


def ticked(book: Book, setup_id: int, outing_id: int) -> set[str]:
    """Return the lines ticked off for a set-up in an outing (0 without one)."""
    query = select(SheetTickRow.line).where(SheetTickRow.setup_id == setup_id, SheetTickRow.outing_id == outing_id)
    return set(book.sql.scalars(query))


def tick(book: Book, setup_id: int, outing_id: int, line: str, *, done: bool) -> None:
    """Tick a line off or take the tick back."""
    fetch(book, SetupRow, "set-up", setup_id)
    where = (
        SheetTickRow.setup_id == setup_id, SheetTickRow.outing_id == outing_id, SheetTickRow.line == line,
    )  # fmt: skip
    book.sql.execute(delete(SheetTickRow).where(*where))
    if done:
        book.sql.add(SheetTickRow(setup_id=setup_id, outing_id=outing_id, line=line))
    book.sql.flush()


def clear_ticks(book: Book, setup_id: int, outing_id: int) -> None:
    """Take all ticks of a set-up in an outing back."""
    book.sql.execute(delete(SheetTickRow).where(SheetTickRow.setup_id == setup_id, SheetTickRow.outing_id == outing_id))
