"""What is asked of the display, and where it is kept: a cookie of this device."""

from __future__ import annotations

from dataclasses import dataclass

from starlette.datastructures import FormData
from starlette.requests import Request

from welotrope.core.errors import UnreadableError, WelotropeError
from welotrope.core.finder.display import CARD_MM, DISPLAY_SIZE, EYE_DISTANCE, Display
from welotrope.core.units.distance import parse_distance
from welotrope.core.units.numbers import number

COOKIE = "display"
USUAL_CARD_PX, LEAST_CARD_PX, MOST_CARD_PX = 324, 120, 900  # CARD_MM at 96 pixels an inch, and as screens go
BAR_PX = 240
_USUAL_EYE_CM = "60 cm"


@dataclass(frozen=True, kw_only=True)
class DisplayForm:
    """What was typed: the card's width on the page, px, the bar by a ruler, and how far away the eye is."""

    card_px: int = USUAL_CARD_PX
    bar: str = ""
    eye: str = _USUAL_EYE_CM


def display_of(request: Request) -> Display | None:
    """Return the display of this device as it was measured; None where it was not."""
    pitch, _, eye = request.cookies.get(COOKIE, "").partition("-")
    try:
        return Display(pitch_mm=float(pitch), eye_mm=float(eye))
    except (ValueError, WelotropeError):
        return None


def as_cookie(display: Display) -> str:
    """Return a display as it is kept."""
    return f"{display.pitch_mm:.5f}-{display.eye_mm:.1f}"


def form_of(display: Display | None) -> DisplayForm:
    """Return the form that shows a display."""
    if display is None:
        return DisplayForm()
    card = min(max(round(CARD_MM / display.pitch_mm), LEAST_CARD_PX), MOST_CARD_PX)
    return DisplayForm(card_px=card, eye=f"{display.eye_mm / 10:g} cm")


def read_display(typed: FormData) -> Display:
    """Return the display that was measured, by the bar where that was measured too.

    Raises
    ------
    UnreadableError, OutOfRangeError
        When something cannot be read, or is no display.
    """
    eye_mm = parse_distance(str(typed.get("eye", "")), field=EYE_DISTANCE)
    bar = str(typed.get("bar", "")).strip()
    if bar:
        return Display(pitch_mm=number(bar, DISPLAY_SIZE, unit="mm") / BAR_PX, eye_mm=eye_mm)
    card = number(str(typed.get("card_px", "")), DISPLAY_SIZE)
    if not LEAST_CARD_PX <= card <= MOST_CARD_PX:
        raise UnreadableError(DISPLAY_SIZE, f"{card:g}", "the frame does not get as large", "Move the slider")
    return Display.of_card(card, eye_mm=eye_mm)
