"""/practice/reaction: how long from seeing to pressing, as Plan's traps reckon with it."""

from __future__ import annotations

from dataclasses import dataclass

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.kit.aids.models import Eye
from welotrope.core.units.distance import Unit
from welotrope.web.request.context import CurrentContext

BOAT_M_S = 4.0


@dataclass(frozen=True, kw_only=True)
class ReactionPage:
    """The photographer's reaction, ms, and from how many presses of their own; 0 for people in general.

    ``boat_mm`` is how far a boat goes in that time.
    """

    reaction_ms: float
    spread_ms: float
    presses: int
    boat_mm: float
    boat_speed: float
    unit: Unit


def reaction_page(eye: Eye, unit: Unit) -> ReactionPage:
    """Take it from the constants."""
    return ReactionPage(
        reaction_ms=1000 * eye["reaction"], spread_ms=1000 * eye["reaction_spread"],
        presses=round(eye["reaction_presses"]), boat_mm=1000 * BOAT_M_S * eye["reaction"], boat_speed=BOAT_M_S,
        unit=unit,
    )  # fmt: skip


router = APIRouter()


@router.get("/practice/reaction")
def reaction(context: CurrentContext) -> Response:
    """Show the reaction, and how to measure it."""
    return context.page("practice/reaction/page.html", reaction_page(context.personal().eye, context.preferences.unit))
