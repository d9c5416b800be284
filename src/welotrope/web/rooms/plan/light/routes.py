"""/plan/light: whether the light affords the stop."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.web.request.context import CurrentContext
from welotrope.web.request.query_form import read_asked
from welotrope.web.rooms.plan.light.context import light_page
from welotrope.web.rooms.plan.light.form import LightForm

router = APIRouter()


@router.get("/plan/light")
def light(context: CurrentContext) -> Response:
    """Plan the exposure of a zone."""
    stored = context.selected_setup()
    usual = {"iso": "400" if stored.setup.body.is_film else "100"}
    usual |= {"held": "stabilised"} if stored.setup.body.traits.stabiliser else {}
    form, asked, errors = read_asked(LightForm, context, usual)
    steady = context.personal().eye["steady_hand"]
    page = light_page(stored, form, asked, errors, steady, context.preferences.unit)
    return context.page("plan/light/page.html", page, status=422 if page.errors else 200)
