"""/aids/live: the camera's picture on the computer, measured while the ring turns."""

from __future__ import annotations

import secrets
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Annotated

from fastapi import APIRouter, Path, Query
from starlette.requests import Request
from starlette.responses import JSONResponse, Response

from welotrope.core.errors import UnreadableError, WelotropeError
from welotrope.core.fields import PICTURES
from welotrope.core.inputs import FormInput
from welotrope.core.json_values import JsonObject
from welotrope.core.kit.aids.live import LIVE, LIVE_PX, LivePicture
from welotrope.core.kit.aids.models import Eye
from welotrope.core.kit.aids.viewing_optics import Sensor
from welotrope.core.kit.setup import sight_of
from welotrope.core.live.guides import GUIDES, stack_guide
from welotrope.core.live.outline import FINEST_PX, ViewScale, judged, step_blur_px, view_scale
from welotrope.core.practice.scene_list import BY_NAME, FOR_LIVE
from welotrope.core.review.frame import frame_at
from welotrope.core.units.exposure import format_stop
from welotrope.core.units.turn import turn_text
from welotrope.interchange.pictures.opened import picture_of
from welotrope.store.queries import files, history, kit, log, pictures
from welotrope.store.queries.kit import StoredSetup
from welotrope.web.request.context import CurrentContext, TypedForm, reading_context
from welotrope.web.request.folders import shown_name, taken_in
from welotrope.web.request.jobs import turn
from welotrope.web.request.limits import is_guest
from welotrope.web.state.ring_state import RingState

if TYPE_CHECKING:
    from welotrope.core.finder.made_up_view import MadeUpView

USUAL_PX = 1920
MOST_SHARP_PX = 150.0
STACK = ("stack", "Focus stack")
_JPEG, _QUALITY = "image/jpeg", 90


@dataclass(frozen=True, kw_only=True)
class LivePage:
    """The Live page of the set-up in hand.

    Parameters
    ----------
    guides, scenes
        Keys and names of the guided uses, and of the scenes of the made-up camera.
    guide, frames, turn_deg
        The guided use to begin with, and the focus stack asked for: pictures, and degrees of ring from one to the next.
    scale
        What a page needs to know of the usual picture, as :func:`scale_values` tells it.
    film
        Whether the body records on film and sends no picture.
    guest
        Whether this is a device that is paired, to which browsers give no camera.
    """

    stored: StoredSetup
    state: RingState
    guides: tuple[tuple[str, str], ...]
    scenes: tuple[tuple[str, str], ...]
    guide: str
    frames: int
    turn_deg: float
    scale: JsonObject
    film: bool
    guest: bool
    live_px: int
    batch: str


def live_page(
    stored: StoredSetup, state: RingState, eye: Eye, *, guide: str, frames: int, turn_deg: float, guest: bool,
    batch: str, scenes: tuple[str, ...],
) -> LivePage:  # fmt: skip
    """Return the page for a set-up and a setting of its ring."""
    aid = stored.setup.body.aids_by_tag.get("live")
    guides = (*((one.key, one.label) for one in GUIDES), STACK)
    known = guide if guide in dict(guides) else GUIDES[0].key
    live_px = aid.live_px if aid else USUAL_PX
    film = stored.setup.body.image.width_px is None
    scale = {} if film else scale_values(stored, state, eye, live_px=live_px, step=1.0)
    return LivePage(
        stored=stored, state=state, guides=guides, scenes=tuple((one, BY_NAME[one].label) for one in scenes),
        guide=known, frames=frames, turn_deg=turn_deg, film=film, guest=guest, scale=scale,
        live_px=live_px, batch=batch,
    )  # fmt: skip


def scale_values(
    stored: StoredSetup,
    state: RingState,
    eye: Eye,
    *,
    live_px: int,
    step: float,
    frames: int = 0,
    turn_deg: float = 0.0,
) -> JsonObject:
    """Return for JSON how large the blur allowed is in a picture so wide, what it can tell, and the stack asked for.

    Raises
    ------
    WelotropeError
        When the stack asked for cannot be measured.
    """
    setup, image = stored.setup, stored.setup.body.image
    view_stop = state.aim.situation(setup, state.stop, state.angle_deg).view_stop
    sight = sight_of(setup, state.angle_deg, state.stop, view_stop)
    sensor = Sensor(image.pitch_mm or image.width_mm / live_px, image.width_px or live_px)
    scale = view_scale(sight, sensor, live_px=live_px, step=step)
    told = judged(sight, sensor, live_px=live_px, step=step, eye=eye).defocus_mm or 0.0
    step_px = step_blur_px(sight, scale, turn_deg)
    if frames:
        stack_guide(frames, step_px, scale.measured_px)
    error, half = (turn_text(one, setup.turn_in) for one in (told * sight.degrees_per_defocus, sight.window_deg / 2))
    fine = told <= sight.half_window_mm
    return {
        "sharp_px": round(min(scale.measured_px, MOST_SHARP_PX), 2),
        "half": f"blur of {FINEST_PX:g} pixels" if scale.is_coarse else "limit of the standard",
        "step_px": round(step_px, 2), "frames": frames,
        "levels": [{"mm": f"{mm:.3f} mm", "px": round(px, 2)} for mm, px in scale.levels],
        "says": _says(scale, state.stop, view_stop),
        "tells": f"At the best the ring is within ±{error} after 9 of 10 simulated sweeps; the window is ±{half}."
        + ("" if fine else " Magnify the camera’s own view to come closer."),
    }  # fmt: skip


def _says(scale: ViewScale, stop: float, view_stop: float) -> str:
    seen = "" if stop == view_stop else f", looked at through {format_stop(view_stop)}"
    return (
        f"A blur of {scale.blur_mm:.3f} mm at {format_stop(stop)} is {scale.sharp_px:.1f} pixels of this picture{seen}."
    )


router = APIRouter()
Scene = Annotated[str, Path(max_length=40)]
Said = Annotated[str, Query(max_length=20)]
Pixels = Annotated[int, Query(ge=64, le=20_000)]
Step = Annotated[float, Query(ge=1, le=60)]
Frames = Annotated[int, Query(ge=0, le=1000)]
Turn = Annotated[float, Query(ge=0, le=360)]


@router.get("/aids/live")
def show_live(context: CurrentContext, *, guide: Said = "", frames: Frames = 0, turn: Turn = 0.0) -> Response:
    """Show the page that opens a camera and measures its picture."""
    return context.page("aids/live/page.html", live_page(
        context.selected_setup(), context.ring_state(), context.personal().eye, guide=guide, frames=frames,
        turn_deg=turn, guest=is_guest(context.request), batch=secrets.token_hex(8), scenes=FOR_LIVE,
    ))  # fmt: skip


@router.get("/aids/live/scale")
def tell_scale(
    context: CurrentContext, px: Pixels, *, step: Step = 1.0, frames: Frames = 0, turn: Turn = 0.0
) -> Response:
    """Tell how large the blur allowed is in a picture so many pixels wide, sent at a magnification."""
    try:
        return JSONResponse(scale_values(
            context.selected_setup(), context.ring_state(), context.personal().eye, live_px=px, step=step,
            frames=frames, turn_deg=turn,
        ))  # fmt: skip
    except WelotropeError as error:
        return JSONResponse({"error": error.sentence}, status_code=422)


@router.post("/aids/live/aid")
def save_aid(context: CurrentContext) -> Response:
    """Save the picture that arrives as an aid of the body; undoable."""
    stored = context.selected_setup()
    typed = FormInput(texts={one.name: str(context.typed.get(one.name, "")) for one in LIVE.inputs})
    said = {one.name: one.value(typed) for one in LIVE.inputs}
    for one in LIVE.inputs:
        one.check(said[one.name])
    aid = LIVE.made(said)
    if aid is None:
        raise UnreadableError(LIVE_PX.field, "", "no picture came yet", "Open a camera first")
    body = stored.setup.body
    others = (one for one in body.aids if not isinstance(one, LivePicture))
    with context.undoable_transaction(f"Saved the live picture as an aid of {body.name}"):
        kit.save_body(context.uow, replace(body, aids=(*others, aid)), id=stored.body_id)
    return context.back_to("/aids")


@router.get("/aids/live/made-up/{scene}.json")
def tell_made_up(request: Request, scene: Scene) -> Response:
    """Tell what the made-up camera looks at, and how many places its ring has."""
    from welotrope.core.finder.made_up_view import FRAMES

    view = _made_up(request, scene)
    x, y = view.target
    return JSONResponse(
        {"frames": FRAMES, "title": view.title, "target": view.target_name, "x": x, "y": y, "step": view.step}
    )


@router.get("/aids/live/made-up/{scene}/{index}.jpg")
def made_up_frame(request: Request, scene: Scene, index: int) -> Response:
    """Serve what the made-up camera sends with its ring at a place."""
    import cv2

    view = _made_up(request, scene)
    with request.app.state.heavy.enter():
        picture = view.frame(index)
    packed = cv2.imencode(".jpg", picture, [cv2.IMWRITE_JPEG_QUALITY, _QUALITY])[1].tobytes()
    return Response(packed, media_type=_JPEG, headers={"cache-control": "no-store"})


def _made_up(request: Request, scene: str) -> MadeUpView:
    from welotrope.core.finder.made_up_view import MadeUpView
    from welotrope.interchange.scene_files import rendering_called

    if scene not in FOR_LIVE:
        raise UnreadableError("scene", scene, "there is none of that name", f"Choose from {', '.join(FOR_LIVE)}")
    with reading_context(request) as context:
        stored = context.selected_setup()
        return context.cached(
            ("made-up view", stored.id, scene),
            lambda: MadeUpView(stored.setup, stored.setup.lens.widest, scene, rendering_called),
        )


@router.post("/aids/live/keep")
def keep_still(request: Request, typed: TypedForm) -> Response:
    """Log a frame at the setting of the ring, with a still of the live picture that has come; undoable."""
    state = request.app.state
    found = taken_in(state.database.folder, str(typed.get("batch", "")))
    if not found:
        raise UnreadableError(PICTURES, "", "the still did not come", "Keep it once more")
    with reading_context(request, typed=typed) as context:
        stored, ring = context.selected_setup(), context.ring_state()
    still, now = found[0], state.now()
    thumb, preview = (still.with_name(f".{name}.jpg") for name in ("thumb", "preview"))
    try:
        looked = state.pictures.ask("look", still, thumb=str(thumb))
        measured = state.pictures.ask("measure", still, preview=str(preview))
        with turn(state.database) as uow, history.recorded(uow, "Kept a live still with its frame", now) as change:
            shas = [files.keep_file(uow, path.read_bytes(), _JPEG, now) for path in (thumb, preview, still)]
            picture = replace(picture_of(still, looked), name=shown_name(still), folder="", taken_at=now)
            frame = replace(
                frame_at(stored.id, stored.setup, ring.angle_deg, ring.stop, now), tags=(LIVE.tag,), aid=LIVE.tag
            )
            frame_id = log.add_frame(uow, log.outing_for(uow, now.date()), frame)
            picture_id = pictures.add_picture(
                uow, picture, "", thumb_sha=shas[0], preview_sha=shas[1], original_sha=shas[2]
            )
            pictures.assign(uow, {picture_id: frame_id})
            pictures.keep_measured(uow, picture_id, measured)
    finally:
        for path in (thumb, preview, still):
            path.unlink(missing_ok=True)
    with reading_context(request, typed=typed) as context:
        return context.go(f"/log?done={change()}")
