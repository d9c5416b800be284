"""/practice/reaction: how long from seeing to pressing, as Plan's traps reckon with it."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.web.rooms.practice.reaction.context import reaction_page
from welotrope.web.shell.desk import AtDesk

router = APIRouter()


@router.get("/practice/reaction")
def reaction(desk: AtDesk) -> Response:
    """Show the reaction, and how to measure it."""
    return desk.page("practice/reaction/page.html", reaction_page(desk.personal().eye, desk.preferences.unit))
