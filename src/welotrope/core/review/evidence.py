"""Frames as evidence of the hand and of the kit: where focus fell, in extension, and what the aid could show there."""

from __future__ import annotations

import datetime as dt
import math
from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from welotrope.core.errors import WelotropeError
from welotrope.core.hand.attempt import Attempt, Side
from welotrope.core.hand.shot import Shot
from welotrope.core.kit.aids.constants import AVERAGE_EYE, Eye
from welotrope.core.kit.aids.sight import Light
from welotrope.core.kit.setup import Setup
from welotrope.core.kit.sight_of import Resolved, resolved
from welotrope.core.review.intention import Ambient
from welotrope.core.review.outcomes import Outcome

SIDES = {Outcome.HIT: Side.HIT, Outcome.FRONT: Side.FRONT, Outcome.BEHIND: Side.BEHIND}
_LIGHTS = {
    Ambient.SUN: Light.BRIGHT, Ambient.SHADE: Light.BRIGHT, Ambient.FLASH: Light.ROOM, Ambient.INDOORS: Light.ROOM,
    Ambient.DUSK: Light.DIM, Ambient.NIGHT: Light.DARK,
}  # fmt: skip
_STEP = 0.04  # of the logarithm of distance within which what an aid shows is taken as one


@dataclass(frozen=True, kw_only=True)
class FieldFrame:
    """What of a frame bears on where focus fell; distances in mm from the film plane.

    ``distance_mm`` is where the subject was believed to be, else where the ring was set.
    """

    id: int
    aid: str
    technique: str
    light: str
    stop: float
    distance_mm: float
    focal_mm: float | None
    outcome: Outcome
    miss_mm: float | None
    taken_at: dt.datetime
    outing: str = ""


@dataclass(frozen=True)
class Evidence:
    """A frame with what it tells."""

    frame: FieldFrame
    shot: Shot

    def attempt(self, now: dt.datetime, setup: str) -> Attempt:
        """Return it as a trial of the hand with a set-up, by key."""
        shot = self.shot
        return Attempt(
            z=None if shot.error_mm is None else shot.error_mm / shot.defocus_mm, side=shot.side,
            half_z=shot.half_mm / shot.defocus_mm, setup=setup, technique=self.frame.technique, light=self.frame.light,
            days_ago=max((now - self.frame.taken_at).total_seconds() / 86_400, 0.0),
        )  # fmt: skip


def evidence_of(setup: Setup, frames: Iterable[FieldFrame], eye: Eye = AVERAGE_EYE) -> Iterator[Evidence]:
    """Yield what frames with a set-up tell; those of which the ring cannot tell are left out.

    A zoom is taken at the focal length a frame has. Without an aid noted the distance was judged and set.
    """
    known: dict[tuple[object, ...], Resolved | None] = {}
    for frame in frames:
        here = setup if frame.focal_mm is None else setup.at_focal(frame.focal_mm)
        near = math.inf if math.isinf(frame.distance_mm) else round(math.log(frame.distance_mm) / _STEP)
        key = frame.aid, frame.stop, near, frame.light, frame.focal_mm
        if key not in known:
            known[key] = _resolved(here, frame, eye)
        shown = known[key]
        if shown is None:
            continue
        error = _error_mm(here, frame)
        side = SIDES[frame.outcome]
        yield Evidence(
            frame,
            Shot(
                aid=frame.aid or "scale", stop=frame.stop, object_mm=shown.object_mm, half_mm=shown.half_mm,
                defocus_mm=shown.defocus_mm, error_mm=error, side=side,
            ),
        )  # fmt: skip


def _resolved(setup: Setup, frame: FieldFrame, eye: Eye) -> Resolved | None:
    light = _LIGHTS.get(Ambient(frame.light), Light.BRIGHT) if frame.light in set(Ambient) else Light.BRIGHT
    try:
        return resolved(setup, frame.aid or "scale", frame.distance_mm, frame.stop, light, eye)
    except WelotropeError:  # nearer than the ring goes, or beyond its end
        return None


def _error_mm(setup: Setup, frame: FieldFrame) -> float | None:
    """Return how far off focus fell, mm of extension; None where only the side is known, or for a hit."""
    if frame.miss_mm is None or not frame.outcome.is_miss:
        return None
    ring = setup.ring(frame.stop)
    behind = frame.outcome is Outcome.BEHIND
    plane = frame.distance_mm + frame.miss_mm if behind else frame.distance_mm - frame.miss_mm
    if math.isinf(frame.distance_mm):
        plane = frame.miss_mm
    try:
        subject, fell = (float(ring.angle_at_distance(ring.check_reach(mm))) for mm in (frame.distance_mm, plane))
    except WelotropeError:
        return None
    return float(ring.extension_at_angle(subject)) - float(ring.extension_at_angle(fell))
