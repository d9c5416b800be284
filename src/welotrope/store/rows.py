"""Fetching one row by its key."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

from welotrope.store.broken import why_unreadable
from welotrope.store.errors import BrokenRecordError, NotFoundError
from welotrope.store.models import Base
from welotrope.store.unit_of_work import UnitOfWork

RowT = TypeVar("RowT", bound=Base)
ValueT = TypeVar("ValueT")


def fetch(uow: UnitOfWork, table: type[RowT], kind: str, id: int) -> RowT:
    """Return the row with this key; raises NotFoundError naming ``kind``."""
    row = uow.sql.get(table, id) if 0 < id < 2**63 else None
    if row is None:
        raise NotFoundError(kind, id)
    return row


def read_as(row: RowT, kind: str, read: Callable[[RowT], ValueT]) -> ValueT:
    """Return the value of a row; raises BrokenRecordError, which says why, for one that cannot be read."""
    why = why_unreadable(row, read)
    if why is not None:
        raise BrokenRecordError(kind, why)
    return read(row)
