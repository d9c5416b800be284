"""/practice: rounds in the simulated finder, their results and the record of them."""

from __future__ import annotations

from fastapi import APIRouter, Request
from starlette.exceptions import HTTPException
from starlette.responses import JSONResponse, Response

from welotrope.core.aids.advice import judge_aids
from welotrope.core.errors import WelotropeError
from welotrope.store.queries import practice
from welotrope.web.desk import AtDesk, Desk
from welotrope.web.rooms.practice.context import practice_page, round_page, trial_page
from welotrope.web.rooms.practice.forms import RoundForm, read_release
from welotrope.web.rooms.practice.frames import jpeg, read_look
from welotrope.web.rooms.practice.rounds import OpenRound, RoundKeeper

router = APIRouter()
_OVER = "This round is over or was put away. Begin another in Practice."


@router.get("/practice")
def room(desk: AtDesk) -> Response:
    """Show the record of the set-up in hand and a round to choose."""
    query = desk.request.query_params
    form = RoundForm(**{name: query.get(name, "")[:40] for name in ("aid", "scene", "stop")} | {
        "exercise": query.get("exercise", "single")[:40]
    })  # fmt: skip
    return _room(desk, form, "", lost="lost" in query)


@router.post("/practice/rounds")
def begin(desk: AtDesk) -> Response:
    """Begin a round."""
    data = desk.typed
    form = RoundForm.read(data)
    stored = desk.in_hand()
    try:
        opened = _keeper(desk.request).open(stored.id, stored.setup, form.order(stored.setup), eye=desk.personal().eye)
    except WelotropeError as error:
        return _room(desk, form, error.sentence, status=422)
    return desk.go(f"/practice/rounds/{opened.key}")


@router.get("/practice/rounds/{key}")
def play(desk: AtDesk, key: str) -> Response:
    """Show a round to be played; an answered one leads to its result."""
    opened = _keeper(desk.request).find(key)
    if opened is None:
        done = practice.trial_of_round(desk.book, key)
        return desk.go(f"/practice/trials/{done.id}" if done else "/practice?lost=1")
    page = desk.page("round.html", round_page(opened), room="practice")
    page.headers["cache-control"] = "no-store"  # coming back asks again, and an answered round leads to its result
    return page


@router.get("/practice/rounds/{key}/frame")
def frame(request: Request, key: str) -> Response:
    """Return what is seen, as JPEG. It reads no database, so that frames come quickly."""
    opened = _keeper(request).find(key)
    if opened is None:
        return Response(_OVER, 404, media_type="text/plain; charset=utf-8")
    try:
        picture = opened.round.frame(read_look(opened.round, request.query_params))
    except WelotropeError as error:
        return Response(error.sentence, 422, media_type="text/plain; charset=utf-8")
    return Response(jpeg(picture), media_type="image/jpeg", headers={"cache-control": "no-store"})


@router.post("/practice/rounds/{key}/shutter")
def release(desk: AtDesk, key: str) -> Response:
    """Judge a round and keep its trial; says where the result is. A second release changes nothing.

    One that looks like an accident is asked about, and kept only when it was meant.
    """
    data = desk.typed
    sent = {name: str(value) for name, value in data.items()}
    keeper = _keeper(desk.request)
    done = practice.trial_of_round(desk.book, key)
    if done is not None:
        return JSONResponse({"to": f"/practice/trials/{done.id}", "again": True})
    opened = keeper.find(key)
    if opened is None:
        return JSONResponse({"problem": _OVER, "to": "/practice?lost=1"}, 404)
    try:
        trial = opened.round.judge(read_release(sent))
    except WelotropeError as error:
        return JSONResponse({"problem": error.sentence}, 422)
    if trial.doubtful and not sent.get("meant"):
        return JSONResponse({"ask": f"{trial.doubtful}: was that meant?"})
    id = _store(desk, opened, trial)
    keeper.close(key)
    return JSONResponse({"to": f"/practice/trials/{id}"})


@router.post("/practice/rounds/{key}/leave")
def leave(request: Request, key: str) -> Response:
    """Let go of what a round has painted: its page was left."""
    _keeper(request).rest(key)
    return Response(status_code=204)


@router.get("/practice/trials/{id}")
def result(desk: AtDesk, id: int) -> Response:
    """Show the result of a round."""
    return desk.page(
        "trial.html", trial_page(practice.get_trial(desk.book, id), desk.preferences.unit), room="practice"
    )


@router.get("/practice/photos/{key}.jpg")
def photo(desk: AtDesk, key: str, whole: bool = False) -> Response:
    """Return the picture a round took, by the round's key: at full size round the subject, or whole."""
    from welotrope.core.finder.round import photograph

    found = practice.trial_of_round(desk.book, key[:80])
    if found is None:
        raise HTTPException(404)
    trial = found.trial
    return Response(jpeg(photograph(trial, whole)), media_type="image/jpeg", headers={"cache-control": "max-age=3600"})


@router.post("/practice/trials/{id}/delete")
def delete(desk: AtDesk, id: int) -> Response:
    """Delete a trial, undoably."""
    with desk.change("Deleted a round"):
        practice.delete_trial(desk.book, id)
    return desk.back_to("/practice")


def _store(desk: Desk, opened: OpenRound, trial: object) -> int:
    setup = opened.setup
    names = setup.body.name, setup.lens.name
    with desk.remember():
        id = practice.add_trial(desk.book, opened.key, opened.setup_id, names, trial, desk.now())  # type: ignore[arg-type]
    return id


def _room(desk: Desk, form: RoundForm, problem: str, status: int = 200, lost: bool = False) -> Response:
    stored = desk.in_hand()
    trials = practice.list_trials(desk.book, stored.id)
    left_out = practice.left_out(desk.book)
    state, personal = desk.ring_state(), desk.personal()
    situation = state.aim.situation(stored.setup, state.stop, state.angle_deg)
    finest = [found.kind for found in judge_aids(situation, personal.eye, personal.skills) if found.usable]
    page = practice_page(stored, form, problem, trials, personal.skills, finest, left_out, lost, desk.preferences.unit)
    return desk.page("practice.html", page, room="practice", query=state.query, status=status)


def _keeper(request: Request) -> RoundKeeper:
    keeper: RoundKeeper = request.app.state.rounds
    return keeper
