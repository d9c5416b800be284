"""GET /aids: which aid resolves the focus wanted."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.web.rooms.aids.advice.context import aids_page
from welotrope.web.shell.desk import AtDesk

router = APIRouter()


@router.get("/aids")
def aids(desk: AtDesk) -> Response:
    """Judge every aid of the body for the ring's setting and the subject."""
    stored = desk.in_hand()
    state = desk.ring_state()
    page = aids_page(stored, state, desk.presets(), desk.personal(), desk.preferences.unit)
    return desk.page("aids/advice/page.html", page, query=state.query)
