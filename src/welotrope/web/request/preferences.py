"""What a viewer prefers on this device: look, leading unit, and what needs no more explaining; kept in cookies."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from urllib.parse import quote, unquote

from starlette.requests import Request
from starlette.responses import Response

from welotrope.core.units.distance import Unit

MOST_NAME = 40
_YEAR_S = 365 * 24 * 3600


class Appearance(StrEnum):
    """The looks, by place of use."""

    BENCH = "bench"
    ROOM = "room"
    SUN = "sun"
    NIGHT = "night"

    @property
    def label(self) -> str:
        """What it is called on the page; its value is what cookies and style sheets know it by."""
        return "Dim" if self is Appearance.ROOM else self.value.title()

    @property
    def next(self) -> Appearance:
        """The one after it, round and round."""
        looks = list(Appearance)
        return looks[(looks.index(self) + 1) % len(looks)]


@dataclass(frozen=True)
class Preferences:
    """The look, the leading unit, the rooms whose instruments need no more explaining, and who is practising.

    ``person`` is empty for the owner.
    """

    look: Appearance
    unit: Unit
    seen: frozenset[str] = frozenset()
    person: str = ""


def preferences_of(request: Request) -> Preferences:
    """Read the cookies; unknown values fall back to Bench and metres."""
    unit = request.cookies.get("unit")
    return Preferences(
        look_of(request),
        Unit(unit) if unit in set(Unit) else Unit.METRIC,
        frozenset(request.cookies.get("seen", "").split("-")),
        unquote(request.cookies.get("person", ""))[:MOST_NAME],
    )


def look_of(request: Request) -> Appearance:
    """Read the look from its cookie; Bench where it names none."""
    look = request.cookies.get("look")
    return Appearance(look) if look in set(Appearance) else Appearance.BENCH


def remember(response: Response, key: str, value: str) -> None:
    """Keep a preference for a year."""
    response.set_cookie(key, quote(value), max_age=_YEAR_S, samesite="strict", path="/")
