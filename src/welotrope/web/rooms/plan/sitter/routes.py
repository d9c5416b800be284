"""/plan/sitter: someone close."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.units.distance import write_distance
from welotrope.core.units.stops import format_stop, snap_stop
from welotrope.web.request.context import CurrentContext
from welotrope.web.request.query_form import read_asked
from welotrope.web.rooms.plan.sitter.context import sitter_page
from welotrope.web.rooms.plan.sitter.form import SitterForm

router = APIRouter()
_HEAD_AND_SHOULDERS = 28  # focal lengths away


@router.get("/plan/sitter")
def sitter(context: CurrentContext) -> Response:
    """Plan a portrait."""
    lens = context.selected_setup().setup.lens
    near = max(lens.closest_mm, round(_HEAD_AND_SHOULDERS * lens.focal_mm, -2))
    usual = {"stop": format_stop(snap_stop(2.8, lens.stops)), "distance": write_distance(near)}
    form, asked, errors = read_asked(SitterForm, context, usual)
    page = sitter_page(context.selected_setup(), form, asked, errors, context.personal().eye, context.preferences.unit)
    return context.page("plan/sitter/page.html", page, status=422 if page.errors else 200)
