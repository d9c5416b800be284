"""/aids/live: the camera's picture on the computer, measured while the ring turns."""

from __future__ import annotations

import secrets
from dataclasses import replace
from typing import TYPE_CHECKING, Annotated

from fastapi import APIRouter, Path, Query
from starlette.requests import Request
from starlette.responses import JSONResponse, Response

from welotrope.core.errors import UnreadableError, WelotropeError
from welotrope.core.fields import PICTURES
from welotrope.core.inputs import FormInput
from welotrope.core.kit.aids.live import LIVE, LIVE_PX, LivePicture
from welotrope.core.practice.scene_list import FOR_LIVE
from welotrope.core.review.frame import frame_at
from welotrope.interchange.pictures.opened import picture_of
from welotrope.store.queries import files, history, kit, log, pictures
from welotrope.web.request.context import CurrentContext, TypedForm, reading_context
from welotrope.web.request.dropped import shown_name, taken_in
from welotrope.web.request.jobs import turn
from welotrope.web.request.origin import is_guest
from welotrope.web.rooms.aids.live.context import live_page, scale_values

if TYPE_CHECKING:  # what renders takes a while to load; only the made-up camera needs it
    from welotrope.core.finder.made_up_view import MadeUpView

router = APIRouter()
Scene = Annotated[str, Path(max_length=40)]
Said = Annotated[str, Query(max_length=20)]
Pixels = Annotated[int, Query(ge=64, le=20_000)]
Step = Annotated[float, Query(ge=1, le=60)]
Frames = Annotated[int, Query(ge=0, le=1000)]
Turn = Annotated[float, Query(ge=0, le=360)]
_JPEG, _QUALITY = "image/jpeg", 90


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
