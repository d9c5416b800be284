"""Shutter times in seconds, as photographers write them: ``1/250``, ``250``, ``0.5s``, ``2"``, ``30s``."""

from __future__ import annotations

import re

from welotrope.core.errors import OutOfRangeError, UnreadableError

MIN_SHUTTER_S, MAX_SHUTTER_S = 1 / 32000, 86400.0
_WORKS = 'Write a shutter time such as 1/250, 0.5 s, 2" or 30 s'
_FRACTION = re.compile(r"^(\d{1,3})\s*/\s*(\d{1,5})\s*(?:s|sec|seconds?)?$", re.ASCII)
_SECONDS = re.compile(r"^(\d{1,5}(?:[.,]\d{1,4})?)\s*(?:s|sec|seconds?|\"|″|”)$", re.ASCII)
_BARE = re.compile(r"^(\d{1,5})$", re.ASCII)


def parse_shutter(text: str, *, field: str = "shutter") -> float:
    """Read a shutter time in seconds; a bare whole number is the dial's denominator (``250`` is 1/250 s).

    Raises
    ------
    UnreadableError
        When the text is not a time.
    OutOfRangeError
        When it is outside 1/32000 s to 24 h.
    """
    cleaned = text.strip().lower()
    seconds: float | None = None
    if (match := _FRACTION.match(cleaned)) and int(match[2]):
        seconds = int(match[1]) / int(match[2])
    elif match := _SECONDS.match(cleaned):
        seconds = float(match[1].replace(",", "."))
    elif (match := _BARE.match(cleaned)) and int(match[1]):
        seconds = 1 / int(match[1])
    if seconds is None:
        raise UnreadableError(field, text, "that is not a shutter time", _WORKS)
    if not MIN_SHUTTER_S <= seconds <= MAX_SHUTTER_S:
        raise OutOfRangeError(field, text, "no shutter runs at that time", _WORKS)
    return seconds


def format_shutter(seconds: float) -> str:
    """Write a shutter time in seconds: ``1/250 s`` up to 1/3 s, then ``0.5 s``, ``2 s``."""
    if seconds < 0.35:
        return f"1/{round(1 / seconds)} s"
    return f"{seconds:g} s"


def shutter_text(seconds: float | None) -> str:
    """Write a shutter time in s so that it reads back as the same; empty for None.

    Examples
    --------
    >>> shutter_text(1 / 250), shutter_text(0.5), shutter_text(30.0)
    ('1/250', '0.5 s', '30 s')
    """
    if seconds is None:
        return ""
    whole = 1 / seconds
    return f"1/{round(whole)}" if seconds < 0.35 and abs(whole - round(whole)) < 1e-6 * whole else f"{seconds:g} s"


def format_exposure(seconds: float) -> str:
    """Write an exposure as one times it: as a shutter time, whole seconds from 10 s, whole minutes over 90 s.

    Examples
    --------
    >>> format_exposure(232), format_exposure(0.004), format_exposure(81.92)
    ('4 min', '1/250 s', '82 s')
    """
    if 10 <= seconds <= 90:
        return f"{seconds:.0f} s"
    return f"{seconds / 60:.0f} min" if seconds > 90 else format_shutter(seconds)
