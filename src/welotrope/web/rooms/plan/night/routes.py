"""/plan/night: stars."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.units.stops import format_stop
from welotrope.web.request.context import CurrentContext
from welotrope.web.request.query_form import read_asked
from welotrope.web.rooms.plan.night.context import night_page
from welotrope.web.rooms.plan.night.form import NightForm

router = APIRouter()


@router.get("/plan/night")
def night(context: CurrentContext) -> Response:
    """Plan a night."""
    stored = context.selected_setup()
    form, asked, errors = read_asked(NightForm, context, {"stop": format_stop(stored.setup.lens.widest)})
    page = night_page(stored, form, asked, errors, context.preferences.unit)
    return context.page("plan/night/page.html", page, status=422 if page.errors else 200)
