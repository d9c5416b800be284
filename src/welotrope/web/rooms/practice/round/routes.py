"""A round in the simulated finder: its page, its frames, and its release."""

from __future__ import annotations

from fastapi import APIRouter, Request
from starlette.responses import JSONResponse, Response

from welotrope.core.errors import WelotropeError
from welotrope.core.practice.trial import Trial
from welotrope.store.queries import practice
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.rooms.practice.display.section import display_of
from welotrope.web.rooms.practice.keeper import OpenRound, keeper_of
from welotrope.web.rooms.practice.round.context import round_page
from welotrope.web.rooms.practice.round.form import read_release
from welotrope.web.rooms.practice.round.frames import jpeg, read_look

router = APIRouter()
_OVER = "This round is over or was put away. Begin another in Practice."


@router.get("/practice/rounds/{key}")
def play(context: CurrentContext, key: str) -> Response:
    """Show a round to be played; an answered one leads to its result."""
    opened = keeper_of(context.request).find(key)
    if opened is None:
        done = practice.trial_of_round(context.uow, key)
        return context.go(f"/practice/trials/{done.id}" if done else "/practice?lost=1")
    page = context.page("practice/round/page.html", round_page(opened, display_of(context.request)))
    page.headers["cache-control"] = "no-store"  # coming back asks again, and an answered round leads to its result
    return page


@router.get("/practice/rounds/{key}/frame")
def frame(request: Request, key: str) -> Response:
    """Return what is seen, as JPEG. It reads no database, so that frames come quickly."""
    opened = keeper_of(request).find(key)
    if opened is None:
        return Response(_OVER, 404, media_type="text/plain; charset=utf-8")
    try:
        picture = opened.round.frame(read_look(opened.round, request.query_params))
    except WelotropeError as error:
        return Response(error.sentence, 422, media_type="text/plain; charset=utf-8")
    return Response(jpeg(picture), media_type="image/jpeg", headers={"cache-control": "no-store"})


@router.post("/practice/rounds/{key}/shutter")
def release(context: CurrentContext, key: str) -> Response:
    """Judge a round and keep its trial; says where the result is. A second release changes nothing.

    One that looks like an accident is asked about, and kept only when it was meant.
    """
    data = context.typed
    sent = {name: str(value) for name, value in data.items()}
    keeper = keeper_of(context.request)
    done = practice.trial_of_round(context.uow, key)
    if done is not None:
        return JSONResponse({"to": f"/practice/trials/{done.id}", "again": True})
    opened = keeper.find(key)
    if opened is None:
        return JSONResponse({"problem": _OVER, "to": "/practice?lost=1"}, 404)
    try:
        trial = opened.round.judge(read_release(sent, display_of(context.request)))
    except WelotropeError as error:
        return JSONResponse({"problem": error.sentence}, 422)
    if trial.doubtful and not sent.get("meant"):
        return JSONResponse({"ask": f"{trial.doubtful}. Keep this round anyway?"})
    id = _store(context, opened, trial)
    keeper.close(key)
    return JSONResponse({"to": f"/practice/trials/{id}"})


@router.post("/practice/rounds/{key}/leave")
def leave(request: Request, key: str) -> Response:
    """Let go of what a round has painted: its page was left."""
    keeper_of(request).rest(key)
    return Response(status_code=204)


def _store(context: RequestContext, opened: OpenRound, trial: Trial) -> int:
    setup = opened.setup
    names = setup.body.name, setup.lens.name
    with context.transaction():
        id = practice.add_trial(
            context.uow, opened.key, opened.setup_id, names, trial, context.now(), person=context.preferences.person
        )
    return id
