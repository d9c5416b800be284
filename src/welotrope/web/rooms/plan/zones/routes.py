"""/plan/zones: one to three zones to remember."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.units.exposure import format_stop, snap_stop
from welotrope.web.request.context import CurrentContext
from welotrope.web.request.query_form import read_asked
from welotrope.web.rooms.plan.zones.context import zones_page
from welotrope.web.rooms.plan.zones.form import ZonesForm

router = APIRouter()


@router.get("/plan/zones")
def zones(context: CurrentContext) -> Response:
    """Plan zones side by side."""
    stored = context.selected_setup()
    usual = {"stop": format_stop(snap_stop(8, stored.setup.lens.stops))}
    form, asked, errors = read_asked(ZonesForm, context, usual)
    page = zones_page(stored, form, asked, errors, context.personal(), context.presets(), context.preferences.unit)
    return context.page("plan/zones/page.html", page, status=422 if page.errors else 200)
