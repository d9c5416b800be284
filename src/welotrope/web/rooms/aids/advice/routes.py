"""/aids: which aid resolves the focus wanted, and measuring a focus indicator."""

from __future__ import annotations

import statistics
from collections import defaultdict
from collections.abc import Mapping
from dataclasses import replace

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.errors import WelotropeError
from welotrope.core.kit.aids.confirmation import Confirmation
from welotrope.core.kit.aids.registry import view_called
from welotrope.core.kit.setup import sight_of
from welotrope.store.queries import kit, practice
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.rooms.aids.advice.context import aids_page
from welotrope.web.rooms.aids.advice.form import LampForm

router = APIRouter()


@router.get("/aids")
def aids(context: CurrentContext) -> Response:
    """Judge every aid of the body for the ring's setting and the subject."""
    return _page(context, LampForm())


@router.post("/aids/lamp")
def measure_lamp(context: CurrentContext) -> Response:
    """Keep how far a focus indicator stays lit, from where it went on and off at this setting; undoable."""
    form, stored, state = LampForm.read(context.typed), context.selected_setup(), context.ring_state()
    body = stored.setup.body
    sight = sight_of(stored.setup, state.angle_deg, state.stop, stored.setup.view_stop(state.stop))
    try:
        half_mm = form.half_deg() / sight.degrees_per_defocus
        aids = tuple(replace(aid, half_mm=half_mm) if isinstance(aid, Confirmation) else aid for aid in body.aids)
        measured = replace(body, aids=aids)
    except WelotropeError as error:
        return _page(context, form, problem=error.sentence)
    with context.undoable_transaction(f"Measured the focus indicator of {body.name}"):
        kit.save_body(context.uow, measured, id=stored.body_id)
    return context.back_to(f"/aids?{state.query}")


def _page(context: RequestContext, lamp: LampForm, *, problem: str = "") -> Response:
    state = context.ring_state()
    page = aids_page(
        context.selected_setup(), state, context.presets(), context.personal(), context.preferences.unit,
        context.cached("seconds a round", lambda: _seconds(context)), lamp, lamp_problem=problem,
    )  # fmt: skip
    return context.page("aids/advice/page.html", page, query=state.query, status=422 if problem else 200)


def _seconds(context: RequestContext) -> Mapping[str, tuple[float, int]]:
    """Return what a round took in the middle, s, and how many there were, by kind of aid."""
    by_kind: dict[str, list[float]] = defaultdict(list)
    for stored in practice.list_trials(context.uow):
        called = view_called(stored.trial.aid)
        by_kind[called[0].tag if called else stored.trial.aid].append(stored.trial.seconds)
    return {tag: (statistics.median(held), len(held)) for tag, held in by_kind.items()}
