"""Undo: every change made inside ``recorded`` is kept as rows before and after, and can be taken back."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from sqlalchemy import Date, DateTime, delete, event, insert, inspect, update
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session, UOWTransaction

from welotrope.core.errors import ConflictError
from welotrope.store.models import Base, JournalRow, SettingRow

KEEP = 200
Row = dict[str, Any]


@contextmanager
def recorded(session: Session, label: str, at: dt.datetime) -> Iterator[JournalRow]:
    """Record all changes flushed inside the block as one undoable entry named ``label``; does not commit."""
    changes: list[dict[str, Any]] = []

    def before_flush(session: Session, _context: UOWTransaction, _instances: object) -> None:
        for row in session.deleted:
            changes.append(_change(row, before=_row(row), after=None))
        for row in session.dirty:
            if session.is_modified(row) and _undoable(row):
                changes.append(_change(row, before=_row(row, committed=True), after=_row(row)))

    def after_flush(session: Session, _context: UOWTransaction) -> None:
        for row in session.new:
            if _undoable(row):
                changes.append(_change(row, before=None, after=_row(row)))

    session.flush()
    event.listen(session, "before_flush", before_flush)
    event.listen(session, "after_flush", after_flush)
    entry = JournalRow(label=label, at=at, changes=[], undone=False)
    try:
        yield entry
        session.flush()
    finally:
        event.remove(session, "before_flush", before_flush)
        event.remove(session, "after_flush", after_flush)
    entry.changes = changes
    session.add(entry)
    session.flush()
    session.execute(delete(JournalRow).where(JournalRow.id <= entry.id - KEEP))


def undo(session: Session, entry: JournalRow, at: dt.datetime) -> JournalRow:
    """Take an entry back and return the entry that would undo the undoing; does not commit.

    Raises
    ------
    ConflictError
        When it was taken back already, or later changes stand in the way.
    """
    if entry.undone:
        raise ConflictError("undo", entry.label, "that was undone already", "Nothing was changed")
    reverse = [{**change, "before": change["after"], "after": change["before"]} for change in entry.changes]
    try:
        _apply(session, reverse)
    except IntegrityError as error:
        session.rollback()
        raise ConflictError(
            "undo", entry.label, "later changes stand in the way", "Undo those first; nothing was changed"
        ) from error
    entry.undone = True
    back = JournalRow(label=f"Undid: {entry.label}", at=at, changes=reverse, undone=False)
    session.add(back)
    session.flush()
    session.expire_all()
    return back


def _apply(session: Session, changes: list[dict[str, Any]]) -> None:
    order = {table.name: index for index, table in enumerate(Base.metadata.sorted_tables)}
    removals = [change for change in changes if change["after"] is None]
    writes = [change for change in changes if change["after"] is not None]
    for change in sorted(removals, key=lambda change: -order[change["table"]]):
        table = Base.metadata.tables[change["table"]]
        session.execute(delete(table).where(table.c.id == change["before"]["id"]))
    for change in sorted(writes, key=lambda change: order[change["table"]]):
        table = Base.metadata.tables[change["table"]]
        values = _from_json(change["table"], change["after"])
        if change["before"] is None:
            session.execute(insert(table).values(values))
        else:
            session.execute(update(table).where(table.c.id == values["id"]).values(values))


def _undoable(row: object) -> bool:
    return not isinstance(row, JournalRow | SettingRow)


def _change(row: Base, before: Row | None, after: Row | None) -> dict[str, Any]:
    return {"table": row.__tablename__, "before": before, "after": after}


def _row(row: Base, committed: bool = False) -> Row:
    values: Row = {}
    state = inspect(row)
    for column in row.__table__.columns:
        history = state.attrs[column.key].history
        old = history.deleted[0] if committed and history.deleted else getattr(row, column.key)
        values[column.key] = old.isoformat() if isinstance(old, dt.date) else old
    return values


def _from_json(table: str, values: Row) -> Row:
    restored = dict(values)
    for column in Base.metadata.tables[table].columns:
        value = restored.get(column.key)
        if isinstance(value, str) and isinstance(column.type, DateTime):
            restored[column.key] = dt.datetime.fromisoformat(value)
        elif isinstance(value, str) and isinstance(column.type, Date):
            restored[column.key] = dt.date.fromisoformat(value)
    return restored
