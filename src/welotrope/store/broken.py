"""Records that cannot be read: shown where they belong with why, while everything else works on."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any, TypeVar

from sqlalchemy import select

from welotrope.core.errors import WelotropeError
from welotrope.core.units.text import cleaned
from welotrope.store.models import Base
from welotrope.store.unit_of_work import UnitOfWork

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
