"""Reading plain numbers as people write them."""

from __future__ import annotations

import math
import re

from welotrope.core.errors import OutOfRangeError, UnreadableError

_NUMBER = re.compile(r"^[+-]?(?:\d{1,15}(?:[.,]\d{0,20})?|[.,]\d{1,20})(?:e[+-]?\d{1,2})?$", re.ASCII)


def number(text: str, field: str, *, unit: str = "") -> float:
    """Read a pure number, decimal, with a point or a comma, its unit allowed behind it.

    Raises
    ------
    UnreadableError
        When it is none, or past a million million.
    """
    cleaned = text.strip().lower()
    for suffix in (unit.lower(), "°", "×", "x"):
        if suffix:
            cleaned = cleaned.removesuffix(suffix).strip()
    value = float(cleaned.replace(",", ".")) if _NUMBER.match(cleaned) else math.nan
    if not -1e12 < value < 1e12:
        raise UnreadableError(field, text, "that is not a number", f"Write a number{f' in {unit}' if unit else ''}")
    return value


def whole_number(text: str, field: str, low: int, high: int) -> int:
    """Read a whole number within limits.

    Raises
    ------
    UnreadableError, OutOfRangeError
        When it is no number, broken, or out of the limits.
    """
    value = number(text, field)
    if value != int(value) or not low <= value <= high:
        raise OutOfRangeError(field, text, "out of range", f"Write a whole number from {low} to {high}")
    return int(value)


def write_number(value: float | None) -> str:
    """Write a pure number as :func:`number` reads it; '' for one that is not known."""
    return "" if value is None else f"{value:g}"
