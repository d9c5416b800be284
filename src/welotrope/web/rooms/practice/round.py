"""A round in the simulated finder: its page, its frames, and its release."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING

from fastapi import APIRouter, Request
from starlette.responses import JSONResponse, Response

from welotrope.core.errors import UnreadableError, WelotropeError
from welotrope.core.finder.display import Display
from welotrope.core.kit.aids.registry import view_name
from welotrope.core.practice.exercises import Exercise
from welotrope.core.practice.scene_list import BY_NAME
from welotrope.core.practice.trial import Trial
from welotrope.core.units.text import number
from welotrope.store.queries import practice
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.rooms.practice.display import display_of
from welotrope.web.rooms.practice.keeper import OpenRound, keeper_of

if TYPE_CHECKING:
    from welotrope.core.finder.display import Display
    from welotrope.core.finder.finder import FrameRequest
    from welotrope.core.finder.light import Picture
    from welotrope.core.finder.round import Release, Round

QUALITY = 84
MAX_PATH_TEXT = 60_000
MOST_SHOWN_PX = 20_000
_OVER = "This round is over or was put away. Begin another in Practice."


def read_look(round: Round, query: Mapping[str, str]) -> FrameRequest:
    """Read what is to be seen; raises WelotropeError for what is not a number or no level of the body."""
    from welotrope.core.finder.finder import FrameRequest

    def value(name: str, label: str, otherwise: float) -> float:
        text = query.get(name, "")
        return number(text[:40], label) if text else otherwise

    step = value("step", "magnification", 1.0)
    round.check_step(step)
    grid = round.grid_deg(step)
    index = value("i", "ring", 0.0)
    angle = min(index * grid, round.ring.throw_deg) if 0 <= index * grid < round.ring.throw_deg + grid else index * grid
    return FrameRequest(
        aid=round.aid, angle_deg=angle, step=step, x=value("x", "area", 0.0), y=value("y", "area", 0.0),
        turned=query.get("turned") == "1", threshold=_threshold(round, query.get("level", "")),
        colour=query.get("colour", "white")[:12], lean_mm=value("lean", "lean", 0.0), seconds=value("t", "time", 0.0),
        mask=query.get("mask") == "1",
    )  # fmt: skip


def jpeg(picture: Picture) -> bytes:
    """Pack a picture as JPEG."""
    import cv2

    _, data = cv2.imencode(".jpg", picture, [cv2.IMWRITE_JPEG_QUALITY, QUALITY])
    return data.tobytes()


def _threshold(round: Round, name: str) -> float | None:
    if not name:
        return None
    levels = dict(round.levels)
    if name not in levels:
        raise UnreadableError("peaking level", name, "there is none of that name", f"Choose from {', '.join(levels)}")
    return levels[name]


def read_release(data: Mapping[str, object], display: Display | None) -> Release:
    """Read a release on a screen, measured or not; raises WelotropeError for what is no number or no path."""
    from welotrope.core.finder.display import PictureOnDisplay
    from welotrope.core.finder.round import Release

    def value(name: str, label: str) -> float:
        return number(str(data.get(name, "0"))[:40], label)

    text = str(data.get("path", "[]"))
    if len(text) > MAX_PATH_TEXT:
        raise UnreadableError("path", f"{len(text)} characters", "that is too long", "Send fewer points")
    try:
        path = tuple((float(seconds), float(place)) for seconds, place in json.loads(text))
    except (ValueError, TypeError, RecursionError):
        raise UnreadableError("path", text[:40], "that is no list of pairs", "Send seconds and degrees") from None
    shown_px = value("shown", "width of the picture")
    step = value("step", "magnification") if "step" in data else 1.0
    viewing = None
    if display and 1 <= shown_px <= MOST_SHOWN_PX:
        viewing = PictureOnDisplay(display=display, shown_px=shown_px)
    return Release(
        angle_deg=value("angle", "ring"), lean_mm=value("lean", "lean"), seconds=value("seconds", "time"), path=path,
        step=step, level=str(data.get("level", ""))[:40],
        viewing=viewing,
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class RoundPage:
    """A round being played; nothing in it tells how far the subject is."""

    key: str
    setup_name: str
    exercise: Exercise
    scene_title: str
    target_name: str
    aid: str
    aid_name: str
    stop: float
    view_stop: float
    steps: tuple[float, ...]
    grids: tuple[float, ...]
    blend: int
    first_step: float
    levels: tuple[str, ...]
    colours: tuple[str, ...]
    live: bool
    moving: bool
    throw_deg: float
    start_deg: float
    direction: int
    area: tuple[float, float]
    lean_mm: float
    lean_grid_mm: float
    finder_px: tuple[float, ...]
    measured: bool

    @property
    def plan_json(self) -> str:
        """What the script works with; safe inside a script element."""
        plan = {
            "base": f"/practice/rounds/{self.key}", "steps": self.steps, "grids": self.grids, "blend": self.blend,
            "first_step": self.first_step, "turned": self.exercise.turned, "levels": self.levels,
            "colours": self.colours, "live": self.live, "moving": self.moving, "throw_deg": self.throw_deg,
            "start_deg": self.start_deg, "direction": self.direction, "area": self.area, "lean": self.lean_mm,
            "lean_grid": self.lean_grid_mm, "peak_first": bool(self.exercise.finishes_on),
            "finder_px": self.finder_px,
        }  # fmt: skip
        return json.dumps(plan).replace("<", "\\u003c")


def round_page(opened: OpenRound, display: Display | None) -> RoundPage:
    """Compute the page a round is played on."""
    from welotrope.core.finder.round import MAX_LEAN_MM

    made = opened.round
    scene = made.finder.stage.scene
    setup = opened.setup
    return RoundPage(
        key=opened.key, setup_name=setup.name, exercise=made.exercise, scene_title=BY_NAME[scene.name].title,
        target_name=scene.target_name, aid=made.aid, aid_name=view_name(made.aid), stop=made.stop,
        view_stop=made.view_stop, steps=made.steps, grids=tuple(made.grid_deg(step) for step in made.steps),
        blend=made.blend_frames,
        first_step=made.first_step, levels=tuple(name for name, _ in made.levels),
        colours=setup.body.traits.peaking_colours or ("white", "red", "yellow"), live=made.live,
        moving=scene.moves, throw_deg=made.ring.throw_deg, start_deg=made.start_deg,
        direction=1 if setup.lens.infinity_side.value == "left" else -1,
        area=(round(scene.target_x, 3), round(scene.target_y, 3)),
        lean_mm=MAX_LEAN_MM if made.exercise.leans else 0.0, lean_grid_mm=made.lean_grid_mm(made.first_step),
        finder_px=_finder_px(made, display),
        measured=display is not None,
    )  # fmt: skip


def _finder_px(made: Round, display: Display | None) -> tuple[float, ...]:
    """Return how wide the picture would be as large as in the finder, by magnification, px; none for live pictures."""
    from welotrope.core.finder.finder import WIDTH_PX

    slopes = [made.pixel_slope(step) for step in made.steps]
    return tuple(display.width_for(WIDTH_PX * one) for one in slopes if display and one)


router = APIRouter()


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
