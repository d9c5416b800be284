"""/practice/display: how large the pixels of this display are, and from how far away it is looked at."""

from __future__ import annotations

from dataclasses import dataclass

from fastapi import APIRouter
from starlette.datastructures import FormData
from starlette.requests import Request
from starlette.responses import Response

from welotrope.core.errors import UnreadableError, WelotropeError
from welotrope.core.finder.display import CARD_MM, DISPLAY_SIZE, EYE_DISTANCE, Display
from welotrope.core.units.distance import parse_distance
from welotrope.core.units.text import number
from welotrope.web.request.context import CurrentContext
from welotrope.web.request.preferences import remember

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


router = APIRouter()
PAGE = "practice/display/page.html"
_CARD_HIGH = 53.98 / CARD_MM  # of the same standard


@dataclass(frozen=True, kw_only=True)
class DisplayPage:
    """The display as it is known, and the form that measures it."""

    display: Display | None
    form: DisplayForm
    errors: dict[str, str]
    bar_px: int = BAR_PX
    least_px: int = LEAST_CARD_PX
    most_px: int = MOST_CARD_PX
    card_high: float = _CARD_HIGH

    @property
    def card_high_px(self) -> float:
        """The short side of the frame at first, pixels of the page: upright, a card fits on a phone too."""
        return round(self.form.card_px * self.card_high, 1)

    @property
    def eye_cm(self) -> float:
        """From the eye to the display as it is kept, cm; 0 where it is not."""
        return round(self.display.eye_mm / 10, 1) if self.display else 0.0


@router.get("/practice/display")
def show_display(context: CurrentContext) -> Response:
    """Show how the display is measured, and as what it is known."""
    display = display_of(context.request)
    return context.page(PAGE, DisplayPage(display=display, form=form_of(display), errors={}))


@router.post("/practice/display")
def measure_display(context: CurrentContext) -> Response:
    """Keep the display for a year, on this device."""
    typed = context.typed
    try:
        display = read_display(typed)
    except WelotropeError as error:
        key = "eye" if error.key == EYE_DISTANCE.key else "bar" if error.key == DISPLAY_SIZE.key else error.key
        card = str(typed.get("card_px", ""))
        form = DisplayForm(
            card_px=int(card) if card.isdecimal() else DisplayForm.card_px, bar=str(typed.get("bar", ""))[:40],
            eye=str(typed.get("eye", ""))[:40],
        )  # fmt: skip
        page = DisplayPage(display=display_of(context.request), form=form, errors={key: error.sentence})
        return context.page(PAGE, page, status=422)
    answer = context.go("/practice/display")
    remember(answer, COOKIE, as_cookie(display))
    return answer
