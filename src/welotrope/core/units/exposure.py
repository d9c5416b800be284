"""F-numbers and shutter times, as photographers write them."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence

from welotrope.core.errors import OutOfRangeError, UnreadableError

MIN_STOP, MAX_STOP = 0.5, 128.0

FULL_STOPS = (0.7, 1.0, 1.4, 2.0, 2.8, 4.0, 5.6, 8.0, 11.0, 16.0, 22.0, 32.0, 45.0, 64.0)
THIRD_STOPS = (0.7, 0.8, 0.9, 1.0, 1.1, 1.2, 1.4, 1.6, 1.8, 2.0, 2.2, 2.5, 2.8, 3.2, 3.5, 4.0, 4.5, 5.0, 5.6,
               6.3, 7.1, 8.0, 9.0, 10.0, 11.0, 13.0, 14.0, 16.0, 18.0, 20.0, 22.0, 25.0, 29.0, 32.0, 36.0,
               40.0, 45.0, 51.0, 57.0, 64.0)  # fmt: skip

_STOP_TEXT = re.compile(r"^(?:f\s*/?\s*|1\s*:\s*)?(\d{1,4}(?:[.,]\d{1,4})?)$", re.ASCII)
_SPAN = re.compile(r"^(\S+?)\s*(?:-|–|—|\.\.+|\bto\b)\s*(\S+)$")
_WORKS = "Write a stop between f/0.5 and f/128, such as f/5.6 or 5.6"
_LIST_WORKS = (
    "Write the engraved stops with spaces between, such as 2 2.8 4 5.6 8 11 16, or 2-16 for the full stops between"
)


def check_stop(number: float, *, field: str = "stop", read: object = None) -> float:
    """Return ``number`` when it is an f-number between 0.5 and 128, else raise OutOfRangeError.

    Parameters
    ----------
    number
        F-number.
    field
        What an error names.
    read
        What was read, for the sentence of an error.
    """
    if math.isnan(number) or not MIN_STOP <= number <= MAX_STOP:
        raise OutOfRangeError(field, f"f/{number:g}" if read is None else read, "no lens has that stop", _WORKS)
    return number


def parse_stop(text: str, *, field: str = "stop") -> float:
    """Read an f-number such as ``5.6``, ``f/5.6``, ``f 5,6`` or ``1:5.6``.

    Parameters
    ----------
    text
        What was typed.
    field
        What an error names.

    Raises
    ------
    UnreadableError
        When the text is not an f-number.
    OutOfRangeError
        When it is outside 0.5 to 128.
    """
    match = _STOP_TEXT.match(text.strip().lower())
    if match is None:
        raise UnreadableError(field, text, "that is not a stop", _WORKS)
    return check_stop(float(match[1].replace(",", ".")), field=field, read=text)


def parse_stops(text: str, *, field: str = "marked stops") -> tuple[float, ...]:
    """Read a list of marked stops separated by spaces, commas or semicolons, or a span; sorted, no repeats.

    ``2-16`` stands for both and the full stops between. Commas without spaces part numbers where there are several,
    or a point in one of them: ``2,2.8,4``.

    Parameters
    ----------
    text
        What was typed.
    field
        What an error names.

    Raises
    ------
    UnreadableError
        When a part is not a stop, when there is none, or when there are more than 24.
    """
    stripped = text.strip()[:400]
    if span := _SPAN.match(stripped):
        return _full_stops(parse_stop(span[1], field=field), parse_stop(span[2], field=field), text, field)
    parts = [part for chunk in re.split(r"[\s;]+|,\s+", stripped) for part in _by_commas(chunk, text, field) if part]
    stops = sorted({parse_stop(part, field=field) for part in parts})
    if not stops or len(stops) > 24:
        problem = "no stop was found" if not stops else "a ring has at most 24 marked stops"
        raise UnreadableError(field, text, problem, _LIST_WORKS)
    return tuple(stops)


def _by_commas(chunk: str, text: str, field: str) -> list[str]:
    """Part a chunk at its commas unless it is one number with a decimal comma."""
    chunk = chunk.strip(",")
    if chunk.count(",") < 2 and not ("," in chunk and "." in chunk):
        return [chunk]
    parts = chunk.split(",")
    numbers = [parse_stop(part, field=field) for part in parts if part]
    if numbers != sorted(numbers):  # decimal commas among separating ones
        raise UnreadableError(field, text, "its commas could part numbers or be decimal commas", _LIST_WORKS)
    return parts


def _full_stops(widest: float, smallest: float, text: str, field: str) -> tuple[float, ...]:
    if widest >= smallest:
        raise UnreadableError(field, text, "that runs from smaller to wider", _LIST_WORKS)
    # A ring has no full stop marked right beside an odd widest one: 1.8, then 2.8.
    between = [
        stop for stop in FULL_STOPS
        if stops_between(widest, stop) > 0.5 and stops_between(stop, smallest) > 0.5
    ]  # fmt: skip
    return (widest, *between, smallest)


def format_stop(number: float) -> str:
    """Write an f-number with at most two significant digits after rounding: ``f/1.4``, ``f/11``, ``f/0.95``.

    Parameters
    ----------
    number
        F-number.
    """
    digits = 2 if number < 1 else 1 if number < 10 else 0
    text = f"{number:.{digits}f}"
    return "f/" + (text.rstrip("0").rstrip(".") if "." in text else text)


def count_stops(count: float) -> str:
    """Write a number of exposure steps: ``1 stop``, ``3 stops``.

    Parameters
    ----------
    count
        Number of exposure steps.

    Examples
    --------
    >>> count_stops(1), count_stops(2)
    ('1 stop', '2 stops')
    """
    return f"{count:g} stop" if count == 1 else f"{count:g} stops"


def stops_between(first: float, second: float) -> float:
    """Exposure steps from the first f-number to the second, positive when stopping down: 2·log2(N2/N1).

    Parameters
    ----------
    first
        F-number that is counted from.
    second
        F-number that is counted to.

    Examples
    --------
    >>> stops_between(2.8, 5.6)
    2.0
    """
    return 2.0 * math.log2(second / first)


def snap_stop(number: float, marked: Sequence[float]) -> float:
    """Return the marked stop nearest in exposure steps to ``number``.

    Parameters
    ----------
    number
        F-number.
    marked
        F-numbers marked on the lens, widest first.
    """
    return min(marked, key=lambda stop: abs(stops_between(stop, number)))


def next_marked_stop(number: float, marked: Sequence[float], *, tolerance: float = 1.0) -> float | None:
    """Return the widest marked stop that is at least ``number``, or None when all are wider.

    ``tolerance`` is the ratio by which a need may exceed the marked stop and still be held by it.

    Parameters
    ----------
    number
        F-number.
    marked
        F-numbers marked on the lens, widest first.
    tolerance
        Ratio by which the need may exceed the marked stop.
    """
    return next((stop for stop in sorted(marked) if stop * tolerance >= number * (1 - 1e-9)), None)


def nominal_stop(number: float) -> float:
    """Return the engraved f-number that stands for an exact one (11.31 is 11), or itself when none does.

    Parameters
    ----------
    number
        F-number.
    """
    nearest = snap_stop(number, THIRD_STOPS)
    return nearest if abs(stops_between(nearest, number)) < 1 / 6 else number


MIN_SHUTTER_S, MAX_SHUTTER_S = 1 / 32000, 86400.0
_SHUTTER_WORKS = 'Write a shutter time such as 1/250, 0.5 s, 2" or 30 s'
_FRACTION = re.compile(r"^(\d{1,3})\s*/\s*(\d{1,5})\s*(?:s|sec|seconds?)?$", re.ASCII)
_SECONDS = re.compile(r"^(\d{1,5}(?:[.,]\d{1,4})?)\s*(?:s|sec|seconds?|\"|″|”)$", re.ASCII)
_BARE = re.compile(r"^(\d{1,5})$", re.ASCII)


def parse_shutter(text: str, *, field: str = "shutter") -> float:
    """Read a shutter time in seconds; a bare whole number is the dial's denominator (``250`` is 1/250 s).

    Parameters
    ----------
    text
        What was typed.
    field
        What an error names.

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
        raise UnreadableError(field, text, "that is not a shutter time", _SHUTTER_WORKS)
    if not MIN_SHUTTER_S <= seconds <= MAX_SHUTTER_S:
        raise OutOfRangeError(field, text, "no shutter runs at that time", _SHUTTER_WORKS)
    return seconds


def format_shutter(seconds: float) -> str:
    """Write a shutter time in seconds: ``1/250 s`` up to 1/3 s, then ``0.5 s``, ``2 s``.

    Parameters
    ----------
    seconds
        Time in s.
    """
    if seconds < 0.35:
        return f"1/{round(1 / seconds)} s"
    return f"{seconds:g} s"


def shutter_text(seconds: float | None) -> str:
    """Write a shutter time in s so that it reads back as the same; empty for None.

    Parameters
    ----------
    seconds
        Time in s.

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

    Parameters
    ----------
    seconds
        Time in s.

    Examples
    --------
    >>> format_exposure(232), format_exposure(0.004), format_exposure(81.92)
    ('4 min', '1/250 s', '82 s')
    """
    if 10 <= seconds <= 90:
        return f"{seconds:.0f} s"
    return f"{seconds / 60:.0f} min" if seconds > 90 else format_shutter(seconds)
