"""Planning for the subjects of a scene."""

from __future__ import annotations

import dataclasses

from fastapi import APIRouter
from starlette.datastructures import QueryParams
from starlette.responses import Response

from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.rooms.plan.scene.context import plan_page
from welotrope.web.rooms.plan.scene.form import Refused, read_plan

router = APIRouter()


def show(context: RequestContext, query: QueryParams, *, status: int = 200, refused: Refused | None = None) -> Response:
    """Show the scene a query describes, with a preset that was refused."""
    stored = context.selected_setup()
    saved = context.presets()
    usual = next((preset.subjects for preset in reversed(saved) if preset.subjects), ())
    form = read_plan(query, context.numbers_in, usual=usual)
    if refused:
        form = dataclasses.replace(form, refused=refused)
    page = plan_page(stored, form, saved, context.aim(), context.preferences.unit)
    return context.page("plan/scene/page.html", page, query=page.state.query if page.state else "", status=status)


@router.get("/plan")
def plan(context: CurrentContext) -> Response:
    """Plan the scene the URL describes, or offer an empty form."""
    return show(context, context.request.query_params)
