"""GET /aids: which aid resolves the focus wanted."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.web.desk import AtDesk
from welotrope.web.rooms.aids.contexts import aids_page

router = APIRouter()


@router.get("/aids")
def aids(desk: AtDesk, view: str = "") -> Response:
    """Judge every aid of the body for the ring's setting."""
    stored = desk.in_hand()
    state = desk.ring_state()
    if view not in ("open", "taking"):
        view = "open" if stored.setup.opens_for_focusing else "taking"
    page = aids_page(stored, state, desk.presets(), view, desk.preferences.unit)
    return desk.page("aids.html", page, room="aids", query=state.query)
