"""The record of the hand with the set-up in hand, and beginning a round."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.aids.advice import judge_aids
from welotrope.core.errors import WelotropeError
from welotrope.store.queries import practice
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.rooms.practice.keeper import keeper_of
from welotrope.web.rooms.practice.record.context import practice_page
from welotrope.web.rooms.practice.record.form import RoundForm

router = APIRouter()


@router.get("/practice")
def room(context: CurrentContext) -> Response:
    """Show the record of the set-up in hand and a round to choose."""
    query = context.request.query_params
    form = RoundForm(**{name: query.get(name, "")[:40] for name in ("aid", "scene", "stop")} | {
        "exercise": query.get("exercise", "single")[:40]
    })  # fmt: skip
    return _room(context, form, "", lost="lost" in query)


@router.post("/practice/rounds")
def begin(context: CurrentContext) -> Response:
    """Begin a round."""
    data = context.typed
    form = RoundForm.read(data)
    stored = context.selected_setup()
    try:
        opened = keeper_of(context.request).open(
            stored.id, stored.setup, form.order(stored.setup), eye=context.personal().eye
        )
    except WelotropeError as error:
        return _room(context, form, error.sentence, status=422)
    return context.go(f"/practice/rounds/{opened.key}")


def _room(context: RequestContext, form: RoundForm, problem: str, *, status: int = 200, lost: bool = False) -> Response:
    stored = context.selected_setup()
    trials = practice.list_trials(context.uow, setup_id=stored.id)
    left_out = practice.left_out(context.uow)
    state, personal = context.ring_state(), context.personal()
    situation = state.aim.situation(stored.setup, state.stop, state.angle_deg)
    finest = [found.kind for found in judge_aids(situation, eye=personal.eye, hands=personal.hands) if found.usable]
    page = practice_page(stored, form, problem, trials, personal.hands, finest, left_out, lost=lost)
    return context.page("practice/record/page.html", page, query=state.query, status=status)
