"""What the Live page shows, and what it is told of the picture that arrives."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.json_values import JsonObject
from welotrope.core.kit.aids.models import Eye
from welotrope.core.kit.aids.viewing_optics import Sensor
from welotrope.core.kit.setup import sight_of
from welotrope.core.live.guides import GUIDES, stack_guide
from welotrope.core.live.outline import FINEST_PX, ViewScale, judged, step_blur_px, view_scale
from welotrope.core.practice.scene_list import BY_NAME
from welotrope.core.units.exposure import format_stop
from welotrope.core.units.turn import turn_text
from welotrope.store.queries.kit import StoredSetup
from welotrope.web.state.ring_state import RingState

USUAL_PX = 1920
MOST_SHARP_PX = 150.0
STACK = ("stack", "Focus stack")


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
