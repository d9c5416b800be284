"""GET /scale: the ring of the set-up in hand."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.web.rooms.scale.ring.context import FinestAid, best_aid, scale_page
from welotrope.web.shell.desk import AtDesk

router = APIRouter()


@router.get("/scale")
def scale(desk: AtDesk) -> Response:
    """Show the ring and the ground strip."""
    stored = desk.in_hand()
    state = desk.ring_state()
    page = scale_page(stored, state, desk.presets(), desk.personal(), desk.preferences.unit)
    return desk.page("scale/ring/page.html", page, query=state.query)


@router.get("/scale/aid")
def finest_aid(desk: AtDesk) -> Response:
    """Show the finest aid at a setting, as a fragment."""
    stored = desk.in_hand()
    state = desk.ring_state()
    return desk.fragment(
        "scale/ring/finest_aid.html",
        FinestAid(best_aid(stored, state, desk.personal()), state, stored.setup.turn_in),
    )
