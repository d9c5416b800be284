"""Plain text, whole and decimal numbers, and dates, as people write them."""

from __future__ import annotations

import datetime as dt
import math
import re
import unicodedata

from welotrope.core.errors import OutOfRangeError, UnreadableError

NAME_LIMIT = 60
NO_BREAK = "\u00a0"
# A number and the unit after it; ISO and the number after it. What is rare comes first, so that long texts are quick.
_BEFORE_UNIT = (
    r"([0-9½¼¾⅛⅜⅝⅞])\s+(?=(?:mm|cm|km|m|µm|s|ms|min|ft|in|%|dpi|dioptres?|pixels?|px|stops?|paces?|kB|MB|GB)(?![\w’']))"
)
_AFTER_ISO = r"(ISO)\s+(?=[0-9])"
_LINE_BREAKS = "\n\r\t"
_MONTHS = (
    "January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November",
    "December",
)  # fmt: skip


def keep_units(text: str, *, where: str = "") -> str:
    """Return a text with every space between a number and its unit made one that does not break.

    Parameters
    ----------
    text
        What is to be shown or printed in lines.
    where
        Further condition a space must meet, as a regular expression that looks ahead.

    Examples
    --------
    >>> keep_units("sharp to 2 m at ISO 400").count(NO_BREAK)
    2
    """
    unbroken = rf"\1{NO_BREAK}"
    return re.sub(_AFTER_ISO + where, unbroken, re.sub(_BEFORE_UNIT + where, unbroken, text))


def check_name(text: str, field: str, *, limit: int = NAME_LIMIT) -> str:
    """Return ``text`` when it is a name: 1 to ``limit`` characters, none of them control characters.

    Parameters
    ----------
    text
        Name as typed.
    field
        What an error names.
    limit
        Most characters.

    Raises
    ------
    UnreadableError, OutOfRangeError
        When it is blank, holds what cannot be shown, or is longer.
    """
    if not text.strip():
        raise UnreadableError(field, "", "it needs a name", "Write what you call it")
    return check_text(text, field, limit)


def check_text(text: str, field: str, limit: int, *, lines: bool = False) -> str:
    """Return ``text`` when everything in it can be shown and it is no longer than ``limit``; it may be empty.

    ``lines`` allows line breaks and tabs.

    Parameters
    ----------
    text
        Text as typed.
    field
        What an error names.
    limit
        Most characters.
    lines
        Whether line breaks and tabs are allowed.
    """
    if len(text) > limit:
        raise OutOfRangeError(field, text, f"that is {len(text)} characters", f"Use at most {limit}")
    bad = next((sign for sign in text if _unshowable(sign) and not (lines and sign in _LINE_BREAKS)), None)
    if bad is not None:
        raise UnreadableError(
            field, cleaned(text), f"it holds a character that cannot be shown (U+{ord(bad):04X})", "Leave it out"
        )
    return text


def cleaned(text: str) -> str:
    """Return the text without what cannot be shown.

    Parameters
    ----------
    text
        Text from anywhere.
    """
    return "".join(sign for sign in text if not _unshowable(sign))


def _unshowable(sign: str) -> bool:
    """Whether a character is a control, half of a surrogate pair, or stands for nothing."""
    return unicodedata.category(sign) in ("Cc", "Cs", "Cn") or sign in "\u2028\u2029\ufffe\uffff"


def format_date(when: dt.date, pattern: str = "%-d %B %Y") -> str:
    """Return a date or time by a pattern of ``strftime``: the day without a zero, months by their English names.

    Parameters
    ----------
    when
        The day or time.
    pattern
        Pattern as ``strftime`` takes it.

    Examples
    --------
    >>> format_date(dt.date(2026, 3, 4))
    '4 March 2026'
    >>> format_date(dt.datetime(2026, 9, 14, 8, 5), "%-d %b, %H:%M")
    '14 Sep, 08:05'
    """
    month = _MONTHS[when.month - 1]
    words = {"%-d": str(when.day), "%B": month, "%b": month[:3]}
    for letters, word in words.items():
        pattern = pattern.replace(letters, word)
    return when.strftime(pattern)


_NUMBER = re.compile(r"^[+-]?(?:\d{1,15}(?:[.,]\d{0,20})?|[.,]\d{1,20})(?:e[+-]?\d{1,2})?$", re.ASCII)


def number(text: str, field: str, *, unit: str = "") -> float:
    """Read a pure number, decimal, with a point or a comma, its unit allowed behind it.

    Parameters
    ----------
    text
        What was typed.
    field
        What an error names.
    unit
        Unit that may stand behind the number.

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

    Parameters
    ----------
    text
        What was typed.
    field
        What an error names.
    low
        Least value allowed.
    high
        Greatest value allowed.

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
    """Write a pure number as :func:`number` reads it; '' for one that is not known.

    Parameters
    ----------
    value
        The number, or None where it is not known.
    """
    return "" if value is None else f"{value:g}"
