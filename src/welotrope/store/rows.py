"""Fetching one row by its key."""

from __future__ import annotations

from typing import TypeVar

from welotrope.store.book import Book
from welotrope.store.errors import NotFoundError
from welotrope.store.models import Base

RowT = TypeVar("RowT", bound=Base)


def fetch(book: Book, table: type[RowT], kind: str, id: int) -> RowT:
    """Return the row with this key; raises NotFoundError naming ``kind``."""
    row = book.sql.get(table, id) if 0 < id < 2**63 else None
    if row is None:
        raise NotFoundError(kind, id)
    return row
