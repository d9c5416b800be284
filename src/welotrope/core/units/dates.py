"""Dates in words, the same on every platform and whatever language the computer speaks."""

from __future__ import annotations

import datetime as dt

_MONTHS = (
    "January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November",
    "December",
)  # fmt: skip


def format_date(when: dt.date, pattern: str = "%-d %B %Y") -> str:
    """Return a date or time by a pattern of ``strftime``: the day without a zero, months by their English names.

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
