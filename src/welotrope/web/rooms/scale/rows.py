"""Rows of readings as typed: several inputs of one name, blank rows left out."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from itertools import zip_longest
from typing import TypeVar

from welotrope.core.errors import UnreadableError, WelotropeError

Value = TypeVar("Value")
LEAST_ROWS, SPARE_ROWS = 8, 2


def filled(*columns: Sequence[str]) -> list[tuple[str, ...]]:
    """Return the rows that hold anything in their first two columns."""
    return [row for row in zip_longest(*columns, fillvalue="") if any(row[:2])]


def padded(rows: Sequence[tuple[str, ...]], width: int, more: int = 0) -> list[tuple[str, ...]]:
    """Return the rows with blank ones after them, for typing on."""
    blank = max(LEAST_ROWS - len(rows), SPARE_ROWS) + more
    return [*rows, *[("",) * width] * blank]


def read_rows(
    rows: Sequence[tuple[str, ...]], name: str, read: Callable[[tuple[str, ...]], Value]
) -> tuple[list[Value], list[str]]:
    """Read every row; returns the values and a sentence, naming the row, for each that could not be read."""
    values: list[Value] = []
    problems: list[str] = []
    for number, row in enumerate(rows, 1):
        try:
            values.append(read(row))
        except WelotropeError as error:
            problems.append(f"{name} {number}. {error.sentence}")
    return values, problems


def required(text: str, field: str, works: str) -> str:
    """Return the text of a cell that must not be blank."""
    if not text:
        raise UnreadableError(field, "", "the row is half empty", works)
    return text
