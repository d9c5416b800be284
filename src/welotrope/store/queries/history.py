"""The journal of undoable changes, as values."""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass

from sqlalchemy import String, cast, func, select

from welotrope.store import journal
from welotrope.store.errors import NotFoundError
from welotrope.store.models import JournalRow
from welotrope.store.rows import fetch
from welotrope.store.unit_of_work import UnitOfWork

_COLUMNS = (JournalRow.id, JournalRow.label, JournalRow.at, JournalRow.undone, JournalRow.retired)


@dataclass(frozen=True)
class UndoableChange:
    """An undoable change: its name and time, whether it is undone, and whether an update left it behind."""

    id: int
    label: str
    at: dt.datetime
    undone: bool
    retired: bool


@contextmanager
def recorded(uow: UnitOfWork, label: str, at: dt.datetime) -> Iterator[Callable[[], int]]:
    """Record all changes flushed inside the block as one undoable change; yields how to learn its key afterwards."""
    with journal.recorded(uow.sql, label, at) as entry:
        yield lambda: entry.id


def get_change(uow: UnitOfWork, id: int) -> UndoableChange:
    """Return a change; raises NotFoundError. The rows it holds are not read."""
    row = uow.sql.execute(select(*_COLUMNS).where(JournalRow.id == id)).first() if 0 < id < 2**63 else None
    if row is None:
        raise NotFoundError("change", id)
    return UndoableChange(*row)


def latest_changes(uow: UnitOfWork, *, limit: int = 12) -> list[UndoableChange]:
    """Return the latest changes, newest first."""
    rows = uow.sql.execute(select(*_COLUMNS).order_by(JournalRow.id.desc()).limit(limit))
    return [UndoableChange(*row) for row in rows]


def size_of(uow: UnitOfWork, id: int) -> int:
    """Return how many characters a change takes; 0 for none."""
    query = select(func.length(cast(JournalRow.changes, String))).where(JournalRow.id == id)
    return int(uow.sql.scalar(query) or 0)


def tables_of(uow: UnitOfWork, id: int) -> set[str]:
    """Return the tables that a change touched; raises NotFoundError."""
    return {str(change["table"]) for change in fetch(uow, JournalRow, "change", id).changes}


def undo_change(uow: UnitOfWork, id: int, at: dt.datetime) -> int:
    """Take a change back and return the key of the change that would undo the undoing; does not commit.

    Raises
    ------
    NotFoundError, ConflictError
        When there is none, or something later stands in the way.
    """
    return journal.undo(uow.sql, fetch(uow, JournalRow, "change", id), at).id
