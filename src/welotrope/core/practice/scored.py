"""From what was read in a drill to a trial that is scored: errors on the ring, in the scene, and of guesses."""

from __future__ import annotations

import math
from dataclasses import replace

from welotrope.core.errors import OutOfRangeError
from welotrope.core.hand.skill_trial import MissSide, side_of
from welotrope.core.kit.aids.constants import AVERAGE_EYE, Eye
from welotrope.core.kit.aids.viewing_optics import LightLevel
from welotrope.core.kit.setup import Setup
from welotrope.core.kit.viewing import Resolved, resolved
from welotrope.core.practice.drills import DrillId, DrillTrial

_AT_STOP_DEG = 0.3
_FARTHEST_GUESS_MM = 200_000.0


def on_the_ring(
    setup: Setup, at: DrillTrial, error_deg: float, *, eye: Eye = AVERAGE_EYE, left_deg: float | None = None
) -> DrillTrial:
    """Return a trial whose error was read on the ring.

    Parameters
    ----------
    at
        With what, at which distance (mm) and stop; the rest is put in.
    error_deg
        How far off the ring was left, degrees, positive behind.
    left_deg
        Where it was left, degrees from infinity, when that is known: at an end of its travel nothing was found.
    """
    shown = _shown(setup, at, eye)
    error_mm = error_deg / shown.degrees_per_defocus
    return _scored(setup, at, shown, error_mm, error_deg, left_deg)


def by_lean(setup: Setup, at: DrillTrial, set_mm: float, *, eye: Eye = AVERAGE_EYE) -> DrillTrial:
    """Return a trial in which the ring stayed at ``set_mm`` and one leaned until the subject was sharp.

    Distances in mm from the film plane, of the subject in ``at``.
    """
    shown = _shown(setup, at, eye)
    ring = setup.ring(at.stop)
    is_at, was_set = (float(ring.angle_at_distance(ring.check_reach(mm))) for mm in (_distance(at), set_mm))
    error_deg = is_at - was_set
    return _scored(setup, at, shown, error_deg / shown.degrees_per_defocus, error_deg, None)


def by_side(setup: Setup, at: DrillTrial, side: MissSide, *, eye: Eye = AVERAGE_EYE) -> DrillTrial:
    """Return a trial of which only the side is known that focus fell on."""
    return replace(at, side=side.value, half_z=_shown(setup, at, eye).half_z)


def guessed(
    drill: DrillId, believed_mm: float, true_mm: float, light: LightLevel, *, eye: Eye = AVERAGE_EYE
) -> DrillTrial:
    """Return a trial in which a distance was judged, mm: its error is a share of the distance, positive too far.

    Raises
    ------
    OutOfRangeError
        When one of them is no distance to guess.

    Examples
    --------
    >>> round(guessed(DrillId.GUESS, 2300, 2000, LightLevel.BRIGHT).z, 2)  # 14 % too far, the average eye is off by 15
    0.93
    """
    for name, mm in (("guess", believed_mm), ("measured distance", true_mm)):
        if not 0 < mm <= _FARTHEST_GUESS_MM:
            raise OutOfRangeError(name, f"{mm / 1000:g} m", "that cannot be guessed", "Write up to 200 m")
    z = math.log(believed_mm / true_mm) / eye["distance_guess"]
    return DrillTrial(drill=drill, aid="scale", light=light, distance_mm=true_mm, believed_mm=believed_mm, z=z)


def guess_share(z: float, *, eye: Eye = AVERAGE_EYE) -> float:
    """Return what a guess was off by, a share of the distance, positive too far, from its scored error ``z``.

    Examples
    --------
    >>> round(guess_share(guessed(DrillId.GUESS, 2300, 2000, LightLevel.BRIGHT).z), 2)
    0.15
    """
    return math.expm1(z * eye["distance_guess"])


def half_window_deg(setup: Setup, at: DrillTrial, *, eye: Eye = AVERAGE_EYE) -> float:
    """Return half the sharp window on the ring where a trial is done, degrees."""
    shown = _shown(setup, at, eye)
    return shown.half_mm * shown.degrees_per_defocus


def _distance(at: DrillTrial) -> float:
    if at.distance_mm is None:
        raise OutOfRangeError("distance", "nothing", "it is not known how far the subject was", "Write its distance")
    return at.distance_mm


def _shown(setup: Setup, at: DrillTrial, eye: Eye) -> Resolved:
    stop = setup.lens.widest if at.stop is None else at.stop
    return resolved(setup, at.aid, _distance(at), stop, light=at.light, eye=eye)


def _scored(
    setup: Setup, at: DrillTrial, shown: Resolved, error_mm: float, error_deg: float, left_deg: float | None
) -> DrillTrial:
    side = side_of(error_mm, shown.half_mm)
    throw = setup.ring(at.stop).throw_deg
    at_stop = left_deg is not None and not _AT_STOP_DEG < left_deg < throw - _AT_STOP_DEG
    return replace(
        at, error_deg=error_deg, z=error_mm / shown.defocus_mm, side=side.value, half_z=shown.half_z, at_stop=at_stop
    )
