"""GET /scale: the ring of the set-up in hand."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.web.request.context import CurrentContext
from welotrope.web.rooms.scale.ring.context import FinestAid, best_aid, scale_page

router = APIRouter()


@router.get("/scale")
def scale(context: CurrentContext) -> Response:
    """Show the ring and the ground strip."""
    stored = context.selected_setup()
    state = context.ring_state()
    page = scale_page(stored, state, context.presets(), context.personal(), context.preferences.unit)
    return context.page("scale/ring/page.html", page, query=state.query)


@router.get("/scale/aid")
def finest_aid(context: CurrentContext) -> Response:
    """Show the finest aid at a setting, as a fragment."""
    stored = context.selected_setup()
    state = context.ring_state()
    return context.fragment(
        "scale/ring/finest_aid.html",
        FinestAid(best_aid(stored, state, context.personal()), state, stored.setup.turn_in),
    )
