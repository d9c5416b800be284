"""What a query can fail with, and records that cannot be read: shown where they belong with why."""

from __future__ import annotations

import errno
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any, TypeVar

from sqlalchemy import select
from sqlalchemy.exc import OperationalError as DatabaseOperationError

from welotrope.core.errors import WelotropeError
from welotrope.core.units.text import cleaned
from welotrope.store.models import Base
from welotrope.store.unit_of_work import UnitOfWork

__all__ = ["DISK_FULL", "BrokenRecordError", "DatabaseOperationError", "NotFoundError", "is_busy", "is_disk_full"]

DISK_FULL = {errno.ENOSPC, errno.EDQUOT}


def is_disk_full(error: BaseException) -> bool:
    """Whether something failed for want of room, in a file or in the database."""
    if isinstance(error, OSError):
        return error.errno in DISK_FULL
    return isinstance(error, DatabaseOperationError) and "disk is full" in str(error)


def is_busy(error: BaseException) -> bool:
    """Whether something failed because another change would not end."""
    return isinstance(error, DatabaseOperationError) and "locked" in str(error)


class BrokenRecordError(Exception):
    """What is stored of a thing cannot be read; says why, and what can be done."""

    def __init__(self, kind: str, why: str) -> None:
        super().__init__(f"This {kind} cannot be read. {why} Delete it on the Kit page, or put a backup in its place.")


class NotFoundError(LookupError):
    """There is no such record; it may have been deleted."""

    def __init__(self, kind: str, id: int) -> None:
        self.kind, self.id = kind, id
        super().__init__(f"There is no {kind} number {id}. It may have been deleted: look under Undo on the Kit page.")


RowT = TypeVar("RowT")
ValueT = TypeVar("ValueT")
# What turning a row into a value fails with when the row holds what no rule allows; ValueError covers our own errors
# and those of validation.
_UNREADABLE = (ValueError, TypeError, KeyError, AttributeError, ArithmeticError)


@dataclass(frozen=True)
class Broken:
    """A record that cannot be read: its kind, table and key, what it is called, and why, in a sentence."""

    noun: str
    table: str
    id: int
    name: str
    why: str


def readable(rows: Iterable[RowT], read: Callable[[RowT], ValueT]) -> list[ValueT]:
    """Return what rows hold, without those that cannot be read."""
    found = []
    for row in rows:
        try:
            found.append(read(row))
        except _UNREADABLE:
            continue
    return found


def why_unreadable(row: RowT, read: Callable[[RowT], object]) -> str | None:
    """Return why a row cannot be read, in a sentence, or None when it can."""
    try:
        read(row)
    except WelotropeError as error:
        return error.sentence
    except _UNREADABLE as error:
        return f"What is stored of it makes no sense ({type(error).__name__})."
    return None


def broken_rows(uow: UnitOfWork, table: type[Base], noun: str, read: Callable[..., object]) -> list[Broken]:
    """Return the records of a table that cannot be read."""
    return broken_among(uow.sql.scalars(select(table)), table.__tablename__, noun, read)


def broken_among(rows: Iterable[Any], table: str, noun: str, read: Callable[..., object]) -> list[Broken]:
    """Return the records among rows of a table that cannot be read."""
    found = []
    for row in rows:
        why = why_unreadable(row, read)
        if why is not None:
            name = cleaned(str(getattr(row, "name", "") or ""))[:60]
            found.append(Broken(noun, table, int(row.id), name, why))
    return found
