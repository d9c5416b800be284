"""Film rolls: what film, how it was exposed, and the dates of its frames when they are known only later."""

from __future__ import annotations

import datetime as dt
import re
from collections.abc import Sequence
from dataclasses import dataclass, field

from welotrope.core.errors import Field, OutOfRangeError, UnreadableError
from welotrope.core.inputs import Input, check_limits, field_spec, name_input, number_input, whole_input
from welotrope.core.units.text import check_text

MOST_PUSH = 4.0
_FILM = Field("film", "film")
_NUMBER = re.compile(r"\d+")


@dataclass(frozen=True, kw_only=True)
class Roll:
    """A roll of film: its name, the film, its box ISO, stops it is pushed (pulled: negative), its body, a note."""

    name: str = field(metadata=field_spec(name_input(Field("roll_name", "roll name"), hint="such as 26-07")))
    film: str = field(default="", metadata=field_spec(Input(
        name="film", field=_FILM, label="Film", optional=True, empty="", write=str,
        read=lambda text, _typed: check_text(text.strip(), _FILM, 60),
    )))  # fmt: skip
    iso: int | None = field(
        default=None, metadata=field_spec(whole_input("iso", Field("iso", "ISO"), "ISO", 1, 100_000))
    )
    push_stops: float | None = field(default=None, metadata=field_spec(number_input(
        "push", Field("push", "push"), "Pushed by", unit="stops", low=-MOST_PUSH, high=MOST_PUSH, hint="pulled: −1",
    )))  # fmt: skip
    body_name: str = field(default="", metadata=field_spec(Input(
        name="body", field=Field("roll_body", "body"), label="Camera", optional=True, empty="", write=str,
        read=lambda text, _typed: check_text(text.strip(), "body", 60),
    )))  # fmt: skip

    def __post_init__(self) -> None:
        check_limits(self)

    @property
    def exposure_index(self) -> int | None:
        """ISO it is exposed at, a pure number: the box speed with the push; None when not known.

        Examples
        --------
        >>> Roll(name="7", iso=400, push_stops=1).exposure_index
        800
        """
        return None if self.iso is None else round(self.iso * 2 ** (self.push_stops or 0.0))

    def describe(self, *, film_frame: str = "") -> str:
        """Return it in words, with the number of a frame: “Roll 26-07, Grauwe 400 at 800, frame 12A”."""
        speed = "" if self.iso is None else f"ISO {self.iso}"
        pushed = f" at {self.exposure_index}" if self.push_stops and self.iso is not None else ""
        film = " ".join(part for part in (self.film, speed) if part) + pushed
        parts = (f"Roll {self.name}", film, f"frame {film_frame}" if film_frame else "")
        return ", ".join(part for part in parts if part)


def frame_order(film_frame: str) -> tuple[int, str]:
    """Return what film frames are put in order by: their number, then the letter behind it.

    Parameters
    ----------
    film_frame
        Number of the frame on its film, with a letter behind it where there is one.
    """
    digits = _NUMBER.search(film_frame)
    return (int(digits[0]), film_frame.lower()) if digits else (10**6, film_frame.lower())


def next_film_frame(film_frame: str) -> str:
    """Return the number of the frame after one; empty where it has none.

    Parameters
    ----------
    film_frame
        Number of the frame on its film, with a letter behind it where there is one.

    Examples
    --------
    >>> next_film_frame("12A")
    '13'
    """
    digits = _NUMBER.search(film_frame)
    return str(int(digits[0]) + 1) if digits else ""


def spread_times(count: int, first: dt.datetime, last: dt.datetime) -> Sequence[dt.datetime]:
    """Return times for frames in order, evenly from the first to the last, to the second.

    Parameters
    ----------
    count
        How many.
    first
        Time of the first frame.
    last
        Time of the last frame.

    Raises
    ------
    OutOfRangeError
        When the last comes before the first.
    """
    if last < first:
        raise OutOfRangeError("last frame", f"{last:%Y-%m-%d %H:%M}", "that is before the first", "Write a later time")
    step = (last - first) / max(count - 1, 1)
    return [(first + index * step).replace(microsecond=0) for index in range(count)]


def read_time(text: str, said: str) -> dt.datetime:
    """Read a date and time as a form sends it; ``said`` names the field in the sentence of an error.

    Parameters
    ----------
    text
        What was typed.
    said
        What an error names.
    """
    try:
        moment = dt.datetime.fromisoformat(text)
    except ValueError:
        raise UnreadableError(said, text, "that is not a date and time", "Write it like 2026-03-14 15:30") from None
    if moment.tzinfo is not None or not 1900 <= moment.year <= 2200:
        raise OutOfRangeError(said, text, "out of range", "Write the local time, like 2026-03-14 15:30")
    return moment
