"""/field/cards: the cards of an outing as PDF and SVG."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter
from starlette.exceptions import HTTPException
from starlette.requests import Request
from starlette.responses import Response

from welotrope.core.units.stops import format_stop, snap_stop
from welotrope.interchange.print.drawing import Page
from welotrope.interchange.print.pdf import write_pdf
from welotrope.interchange.print.svg import write_svg
from welotrope.web.forms.asked import read_asked
from welotrope.web.rooms.field.cards.context import cards_page, make_cards
from welotrope.web.rooms.field.cards.form import USUAL_PARTS, CardsForm
from welotrope.web.shell.desk import AtDesk, Desk, heavy_desk

router = APIRouter()
_TITLE = "Cards of the outing"


@router.get("/field/cards")
def order(desk: AtDesk) -> Response:
    """Order cards and see them."""
    page = cards_page(desk, *_asked(desk))
    return desk.page("field/cards/page.html", page, status=422 if page.errors else 200)


@router.get("/field/cards.pdf")
def as_pdf(request: Request) -> Response:
    """Return the cards as PDF."""
    with heavy_desk(request) as desk:
        data = write_pdf(_pages(desk), _TITLE)
    headers = {"content-disposition": 'attachment; filename="welotrope-cards.pdf"'}
    return Response(data, media_type="application/pdf", headers=headers)


@router.get("/field/cards.svg")
def as_svg(request: Request) -> Response:
    """Return the cards as SVG."""
    with heavy_desk(request) as desk:
        text = write_svg(_pages(desk), _TITLE)
    return Response(text, media_type="image/svg+xml")


def _asked(desk: Desk) -> tuple[Any, Any, dict[str, str]]:
    stop = snap_stop(8.0, desk.in_hand().setup.lens.stops)
    return read_asked(CardsForm, desk, {"part": list(USUAL_PARTS), "stop": format_stop(stop)})


def _pages(desk: Desk) -> list[Page]:
    _, asked, errors = _asked(desk)
    if asked is None:
        raise HTTPException(422, next(iter(errors.values())))
    pages = make_cards(desk, asked).pages
    if not pages:
        raise HTTPException(422, "Nothing is chosen that could be printed. Tick a card.")
    return pages
