"""/field/cards: the cards of an outing as PDF and SVG."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.exceptions import HTTPException
from starlette.requests import Request
from starlette.responses import Response

from welotrope.core.units.exposure import format_stop, snap_stop
from welotrope.interchange.print.drawing import Page
from welotrope.interchange.print.pdf import write_pdf
from welotrope.interchange.print.svg import write_svg
from welotrope.web.forms.record_form import RecordForm
from welotrope.web.request.context import CurrentContext, RequestContext, heavy_context
from welotrope.web.request.query_form import read_asked
from welotrope.web.rooms.field.cards.context import cards_page, make_cards
from welotrope.web.rooms.field.cards.form import USUAL_PARTS, CardsAsked, CardsForm

router = APIRouter()
_TITLE = "Cards of the outing"


@router.get("/field/cards")
def order(context: CurrentContext) -> Response:
    """Order cards and see them."""
    page = cards_page(context, *_asked(context))
    return context.page("field/cards/page.html", page, status=422 if page.errors else 200)


@router.get("/field/cards.pdf")
def as_pdf(request: Request) -> Response:
    """Return the cards as PDF."""
    with heavy_context(request) as context:
        data = write_pdf(_pages(context), _TITLE)
    headers = {"content-disposition": 'attachment; filename="welotrope-cards.pdf"'}
    return Response(data, media_type="application/pdf", headers=headers)


@router.get("/field/cards.svg")
def as_svg(request: Request) -> Response:
    """Return the cards as SVG."""
    with heavy_context(request) as context:
        text = write_svg(_pages(context), _TITLE)
    return Response(text, media_type="image/svg+xml")


def _asked(context: RequestContext) -> tuple[RecordForm, CardsAsked | None, dict[str, str]]:
    stop = snap_stop(8.0, context.selected_setup().setup.lens.stops)
    return read_asked(CardsForm, context, {"part": list(USUAL_PARTS), "stop": format_stop(stop)})


def _pages(context: RequestContext) -> list[Page]:
    _, asked, errors = _asked(context)
    if asked is None:
        raise HTTPException(422, next(iter(errors.values())))
    pages = make_cards(context, asked).pages
    if not pages:
        raise HTTPException(422, "Nothing is chosen that could be printed. Tick a card.")
    return pages
