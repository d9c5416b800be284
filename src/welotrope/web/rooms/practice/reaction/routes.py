"""/practice/reaction: how long from seeing to pressing, as Plan's traps reckon with it."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.web.request.context import CurrentContext
from welotrope.web.rooms.practice.reaction.context import reaction_page

router = APIRouter()


@router.get("/practice/reaction")
def reaction(context: CurrentContext) -> Response:
    """Show the reaction, and how to measure it."""
    return context.page("practice/reaction/page.html", reaction_page(context.personal().eye, context.preferences.unit))
