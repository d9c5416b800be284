"""/practice/display: how large the pixels of this display are, and from how far away it is looked at."""

from __future__ import annotations

from dataclasses import dataclass

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.errors import WelotropeError
from welotrope.core.finder.display import CARD_MM, DISPLAY_SIZE, EYE_DISTANCE, Display
from welotrope.web.request.context import CurrentContext
from welotrope.web.request.preferences import remember
from welotrope.web.rooms.practice.display.form import (
    BAR_PX,
    COOKIE,
    LEAST_CARD_PX,
    MOST_CARD_PX,
    DisplayForm,
    as_cookie,
    display_of,
    form_of,
    read_display,
)

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
