"""/plan/moving: a trap, and the reaction test it rests on."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Form
from starlette.responses import Response

from welotrope.core.plan.moving import reaction_of
from welotrope.core.units.exposure import format_stop, snap_stop
from welotrope.store.queries import practice
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.request.limits import local_path
from welotrope.web.request.query_form import read_asked
from welotrope.web.rooms.plan.moving.context import moving_page
from welotrope.web.rooms.plan.moving.form import TrapForm

router = APIRouter()


@router.get("/plan/moving")
def moving(context: CurrentContext) -> Response:
    """Plan a trap."""
    stored = context.selected_setup()
    form, asked, errors = read_asked(TrapForm, context, _usual(context))
    page = moving_page(stored, form, asked, errors, context.personal(), context.preferences.unit)
    return context.page("plan/moving/page.html", page, status=422 if page.errors else 200)


@router.post("/plan/reaction")
def keep_reaction(
    context: CurrentContext, *, press: Annotated[list[str] | None, Form()] = None, back: Annotated[str, Form()] = ""
) -> Response:
    """Keep the photographer's reaction, measured in the page, s."""
    found = reaction_of(press or [])
    own = practice.own_constants(context.uow) | found.constants
    with context.undoable_transaction(f"Saved your reaction, {found.median_s * 1000:.0f} ms"):
        practice.save_constants(context.uow, own)
    return context.back_to(local_path(back, otherwise="/plan/moving"))


def _usual(context: RequestContext) -> dict[str, str]:
    setup = context.selected_setup().setup
    traits = setup.body.traits
    usual = {"stop": format_stop(snap_stop(5.6, setup.lens.stops))}
    usual |= {"rate": f"{traits.burst_fps:g}"} if traits.burst_fps else {}
    return usual | ({"lag": f"{traits.shutter_lag_ms:g}"} if traits.shutter_lag_ms is not None else {})
