"""What a frame was meant to be: the subject and its place in the picture, how it was focused, held and lit."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from welotrope.core.errors import Field, OutOfRangeError, UnreadableError
from welotrope.core.units.numbers import number

_PLACE = Field("spot", "place in the picture")
_WORKS = "Write such as “centre”, “upper left”, or percents from the left and the top: 31 42"
_ACROSS, _DOWN = ("left", "", "right"), ("upper", "", "lower")
_THIRDS = (1 / 6, 1 / 2, 5 / 6)
_NEAR_ENOUGH = 0.005


class Technique(StrEnum):
    """How the focus was found."""

    SINGLE = "single"
    PASS = "pass and return"
    FROM_INFINITY = "from infinity"
    LEAN = "lean"
    TRAP = "trap"
    SET = "set and shoot"


class Support(StrEnum):
    """What the camera stood on or was held by."""

    HAND = "by hand"
    LEANT = "leant on something"
    MONOPOD = "one leg"
    TRIPOD = "tripod"


class Ambient(StrEnum):
    """The light it was taken in, as far as it bears on seeing focus."""

    SUN = "sun"
    SHADE = "shade"
    INDOORS = "indoors"
    DUSK = "dusk"
    NIGHT = "night"
    FLASH = "flash"


@dataclass(frozen=True)
class Spot:
    """A place in a picture: fractions of its width and height from the top left corner.

    Raises
    ------
    OutOfRangeError
        When it lies outside.
    """

    x: float
    y: float

    def __post_init__(self) -> None:
        if not (0 <= self.x <= 1 and 0 <= self.y <= 1):
            raise OutOfRangeError(_PLACE, f"{self.x * 100:g} {self.y * 100:g}", "that is outside of it", _WORKS)

    def distance_to(self, other: Spot, aspect: float) -> float:
        """Return how far apart two spots are, in the unit of its height; ``aspect`` is width by height."""
        return math.hypot((self.x - other.x) * aspect, self.y - other.y)


def _called() -> Mapping[str, Spot]:
    named = {}
    for y, down in zip(_THIRDS, _DOWN, strict=True):
        for x, across in zip(_THIRDS, _ACROSS, strict=True):
            named[" ".join(word for word in (down, across) if word) or "centre"] = Spot(x, y)
    return named


SPOTS = _called()


def parse_spot(text: str) -> Spot:
    """Read a place in a picture: one of nine by name, or percents from the left and the top.

    Raises
    ------
    UnreadableError, OutOfRangeError
        When it is none.

    Examples
    --------
    >>> parse_spot("31 42")
    Spot(x=0.31, y=0.42)
    """
    words = text.lower().replace("%", " ").replace(";", " ").split()
    found = SPOTS.get(" ".join(words)) or SPOTS.get(" ".join(reversed(words)))
    if found is not None:
        return found
    if len(words) != 2 or not any(sign.isdigit() for sign in text):
        raise UnreadableError(_PLACE, text, "that is no place in a picture", _WORKS)
    across, down = (number(word.rstrip(","), _PLACE, unit="") for word in words)
    return Spot(across / 100, down / 100)


def is_word(text: str) -> bool:
    """Return whether a place is said in words that name no place of nine: “eye”, “hand”, “corner”."""
    words = text.lower().split()
    named = " ".join(words) in SPOTS or " ".join(reversed(words)) in SPOTS
    return bool(words) and not named and not any(sign.isdigit() for sign in text)


def format_spot(spot: Spot) -> str:
    """Return a place as one says it, to be read only: by name, or in whole percents across and down.

    Examples
    --------
    >>> format_spot(Spot(0.414, 0.271))
    '41 % across, 27 % down'
    """
    written = write_spot(spot)
    return written if written in SPOTS else f"{spot.x * 100:.0f} % across, {spot.y * 100:.0f} % down"


def write_spot(spot: Spot | None) -> str:
    """Return a place as it is read back: by name where it has one."""
    if spot is None:
        return ""
    for name, known in SPOTS.items():
        if abs(known.x - spot.x) < _NEAR_ENOUGH and abs(known.y - spot.y) < _NEAR_ENOUGH:
            return name
    return " ".join(f"{share * 100:.1f}".removesuffix(".0") for share in (spot.x, spot.y))
