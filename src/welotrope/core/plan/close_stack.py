"""A stack of a close-up: by the ring and by a rail, frame by frame."""

from __future__ import annotations

import math
from dataclasses import dataclass

from welotrope.core.errors import ConflictError, OutOfRangeError
from welotrope.core.kit.setup import Setup
from welotrope.core.optics.datum import Datum
from welotrope.core.optics.thin_lens import film_distance_at_extension
from welotrope.core.plan.close_plan import CloseUp, RailStack, rail_stack
from welotrope.core.plan.closeup import close_setting
from welotrope.core.plan.zones import LensAt, frame_stack

_STEP_DEG = 0.1
_EPS = 1e-9  # 1/mm


@dataclass(frozen=True)
class RingFrame:
    """A frame of a stack: ring angle in degrees, and what is in focus, mm from the rim or the close-up lens."""

    angle_deg: float
    working_mm: float


@dataclass(frozen=True, kw_only=True)
class CloseStack:
    """A stack both ways.

    Parameters
    ----------
    ring
        Frames by the ring, nearest first; empty where the ring does not reach, then ``ring_problem`` says why.
    rail
        Frames by moving the camera at one setting.
    mm_per_degree
        How far the plane moves for one degree of ring, mm.
    """

    ring: tuple[RingFrame, ...]
    ring_problem: str
    rail: RailStack
    mm_per_degree: float


def close_stack(setup: Setup, one: CloseUp, stop: float, depth_mm: float, overlap: float) -> CloseStack:
    """Return a stack that covers ``depth_mm`` behind the plane of a close-up.

    Parameters
    ----------
    setup, one
        In hand, and the picture: its plane is the near end's.
    stop
        Marked.
    depth_mm
        Wanted, mm, more than 0 to 1000.
    overlap
        Least share of a frame's depth, 0 to 0.9.

    Raises
    ------
    OutOfRangeError
        When a value is out of range or it takes too many frames.
    """
    if not 0 < depth_mm <= 1000:
        raise OutOfRangeError("depth", f"{depth_mm:g} mm", "out of range", "Write more than 0 to 1000 mm")
    frame = next((depth.depth_mm for depth in one.depths if depth.stop == stop), None)
    if frame is None:
        raise OutOfRangeError("stop", f"f/{stop:g}", "the lens has no such mark", "Choose one of its marked stops")
    frames: tuple[RingFrame, ...] = ()
    problem = ""
    try:
        frames = _ring_frames(setup, one, stop, depth_mm, overlap)
    except (ConflictError, OutOfRangeError) as error:
        problem = error.sentence
    return CloseStack(
        ring=frames,
        ring_problem=problem,
        rail=rail_stack(frame, depth_mm, overlap),
        mm_per_degree=_per_degree(setup, one),
    )


def _ring_frames(setup: Setup, one: CloseUp, stop: float, depth_mm: float, overlap: float) -> tuple[RingFrame, ...]:
    """Frames by the ring: behind a close-up lens from it, else from the film, which stays while the lens moves."""
    ring, f, power = setup.ring(), setup.lens.focal_mm, one.reach.power
    setting = one.setting
    if power > 0:
        lens = LensAt(f=f, N=stop, c=setup.blur_mm, datum=Datum.PRINCIPAL)
        near, far = (_seen(setting.working_mm + off, power) for off in (0.0, depth_mm))
    else:
        lens = LensAt(f=f, N=stop, c=setup.blur_mm, h=ring.h_mm, beyond=setting.magnification > 1)
        near = float(film_distance_at_extension(setting.extension_mm, f, ring.h_mm))
        far = near + depth_mm
    found = []
    for frame in frame_stack(lens, near, far, overlap).frames:
        own = frame.focus_x - one.added_mm
        angle = float(ring.angle_at_extension(own))
        if not -0.5 <= angle <= ring.throw_deg + 0.5:
            raise OutOfRangeError(
                "depth",
                f"{depth_mm:g} mm",
                "the ring does not turn that far with this attachment",
                "Use a rail instead",
            )
        found.append(RingFrame(ring.clamp(angle), close_setting(f, frame.focus_x, power).working_mm))
    return tuple(found)


def _seen(working_mm: float, power: float) -> float:
    """Return what the main lens is focused on for a thing before the close-up lens.

    From its principal plane, mm.
    """
    vergence = 1 / working_mm - power / 1000
    if vergence < -_EPS:
        raise OutOfRangeError(
            "depth",
            f"{working_mm:.0f} mm from the close-up lens",
            "with it the ring ends before that",
            "Use a rail instead",
        )
    return math.inf if vergence <= _EPS else 1 / vergence


def _per_degree(setup: Setup, one: CloseUp) -> float:
    ring, f = setup.ring(), setup.lens.focal_mm
    x = one.setting.extension_mm
    step = _STEP_DEG / ring.degrees_per_mm(one.ring_deg)
    near, far = (close_setting(f, max(x + side * step, 0.0), one.reach.power).working_mm for side in (0.5, -0.5))
    return (far - near) / _STEP_DEG
