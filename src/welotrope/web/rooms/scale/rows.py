"""Rows of readings as typed: several inputs of one name, blank rows left out, and the cells they are read from."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from itertools import zip_longest
from typing import TypeVar

from welotrope.core.errors import UnreadableError, WelotropeError
from welotrope.core.units.distance import write_distance
from welotrope.core.units.numbers import number

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
    for count, row in enumerate(rows, 1):
        try:
            values.append(read(row))
        except WelotropeError as error:
            problems.append(f"{name} {count}. {error.sentence}")
    return values, problems


def required(text: str, field: str, works: str) -> str:
    """Return the text of a cell that must not be blank."""
    if not text:
        raise UnreadableError(field, "", "the row is half empty", works)
    return text


def written(mm: float | None) -> str:
    """Write a distance for its field; empty for none."""
    return "" if mm is None else write_distance(mm)


def ring_angle(text: str, mm_per_degree: float | None) -> float:
    """Read degrees, or millimetres along the ring when they say so."""
    cleaned = text.strip().lower().replace("−", "-")
    if not cleaned.endswith("mm"):
        return number(cleaned, "ring position")
    if mm_per_degree is None:
        raise UnreadableError(
            "ring position", text, "millimetres need the ring’s diameter",
            "Write degrees, or enter the diameter on the lens’s page",
        )  # fmt: skip
    return number(cleaned, "ring position", "mm") / mm_per_degree


def built(build: Callable[[], Value], problems: list[str]) -> tuple[Value | None, list[str]]:
    """Return what the rows make, or None with the sentences of what is wrong."""
    if problems:
        return None, problems
    try:
        return build(), []
    except WelotropeError as error:
        return None, [error.sentence]


def every(*columns: list[str]) -> list[tuple[str, ...]]:
    """Return every row, blank ones among them."""
    longest = max((len(column) for column in columns), default=0)
    return [tuple(column[i] if i < len(column) else "" for column in columns) for i in range(longest)]
