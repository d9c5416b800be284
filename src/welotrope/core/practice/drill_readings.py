"""From what was read in a drill to a trial that is scored: on the tape, on the ring, in the scene, and of guesses."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from enum import StrEnum

from welotrope.core.errors import OutOfRangeError
from welotrope.core.hand.skill_trial import MissSide, side_of
from welotrope.core.kit.aids.models import AVERAGE_EYE, Eye
from welotrope.core.kit.aids.viewing_optics import LightLevel
from welotrope.core.kit.setup import Resolved, Setup, resolved
from welotrope.core.practice.drills import DrillId, DrillTrial

_AT_STOP_DEG = 0.3
_FARTHEST_GUESS_MM = 200_000.0


class Stands(StrEnum):
    """Where the index stands, seen from the line."""

    FARTHER = "farther"
    ON = "on"
    NEARER = "nearer"


class ReadIn(StrEnum):
    """What a reading is in: mm along the ring, degrees, or a distance on the scale."""

    MM = "mm"
    DEGREES = "deg"
    SCALE = "scale"


_BEHIND = {Stands.FARTHER: 1.0, Stands.ON: 0.0, Stands.NEARER: -1.0}


@dataclass(frozen=True, kw_only=True)
class RingError:
    """How a ring was left: off by degrees, positive behind; and where it stood, degrees from infinity."""

    error_deg: float
    at_deg: float


def error_of_turning(setup: Setup, at: DrillTrial, size: float, read_in: ReadIn, stands: Stands) -> RingError:
    """Return how the ring was left, ``size`` away from its line: mm along the ring, or degrees.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    at
        The trial as it was set up.
    size
        How far the ring was left from its line: mm along the ring, or degrees.
    read_in
        Unit that the ring was read in.
    stands
        On which side of its line the ring was left.

    Raises
    ------
    OutOfRangeError
        When the ring's diameter is not known but asked for, the size is negative, or the ring does not turn so far.
    """
    ring = setup.ring(at.stop)
    read = f"{size:g} {'mm' if read_in is ReadIn.MM else '°'}"
    if size < 0:
        raise OutOfRangeError("reading", read, "which way is said beside it", "Write how far, without a sign")
    if read_in is ReadIn.MM:
        if setup.mm_per_degree is None:
            raise OutOfRangeError(
                "reading", read, "the ring’s diameter is not known", "Read in degrees, or enter it in Kit"
            )
        size /= setup.mm_per_degree
    if size > ring.throw_deg:
        raise OutOfRangeError("reading", read, "the ring does not turn so far", "Read it again")
    error = _BEHIND[stands] * size
    return RingError(error_deg=error, at_deg=_right_deg(setup, at) - error)


def error_of_reading(setup: Setup, at: DrillTrial, read_mm: float) -> RingError:
    """Return how the ring was left, from what its scale reads now, mm from the film plane.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    at
        The trial as it was set up.
    read_mm
        Distance in mm from the film plane that the scale reads.

    Raises
    ------
    OutOfRangeError
        When the ring does not reach what was read.
    """
    ring = setup.ring(at.stop)
    stood = float(ring.angle_at_distance(ring.check_reach(read_mm)))
    return RingError(error_deg=_right_deg(setup, at) - stood, at_deg=stood)


def _right_deg(setup: Setup, at: DrillTrial) -> float:
    distance = math.inf if at.distance_mm is None else at.distance_mm
    return float(setup.ring(at.stop).angle_at_distance(distance))


def on_the_ring(
    setup: Setup, at: DrillTrial, error_deg: float, *, eye: Eye = AVERAGE_EYE, left_deg: float | None = None
) -> DrillTrial:
    """Return a trial whose error was read on the ring.

    Parameters
    ----------
    setup, eye
        Lens and body; and the constants of the eye and of the aids.
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

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    at
        The trial as it was set up.
    set_mm
        Distance in mm from the film plane that the ring stays at.
    eye
        Constants of the eye and of the aids; those of an average eye where none are given.
    """
    shown = _shown(setup, at, eye)
    ring = setup.ring(at.stop)
    is_at, was_set = (float(ring.angle_at_distance(ring.check_reach(mm))) for mm in (_distance(at), set_mm))
    error_deg = is_at - was_set
    return _scored(setup, at, shown, error_deg / shown.degrees_per_defocus, error_deg, None)


def by_side(setup: Setup, at: DrillTrial, side: MissSide, *, eye: Eye = AVERAGE_EYE) -> DrillTrial:
    """Return a trial of which only the side is known that focus fell on.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    at
        The trial as it was set up.
    side
        Side that focus fell on.
    eye
        Constants of the eye and of the aids; those of an average eye where none are given.
    """
    return replace(at, side=side.value, half_z=_shown(setup, at, eye).half_z)


def guessed(
    drill: DrillId, believed_mm: float, true_mm: float, light: LightLevel, *, eye: Eye = AVERAGE_EYE
) -> DrillTrial:
    """Return a trial in which a distance was judged, mm: its error is a share of the distance, positive too far.

    Parameters
    ----------
    drill
        The drill.
    believed_mm
        Distance in mm as it is believed to be.
    true_mm
        Distance in mm as it is.
    light
        How light it was.
    eye
        Constants of the eye and of the aids; those of an average eye where none are given.

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

    Parameters
    ----------
    z
        Error of the guess, in units of what an average eye is off by.
    eye
        Constants of the eye and of the aids; those of an average eye where none are given.

    Examples
    --------
    >>> round(guess_share(guessed(DrillId.GUESS, 2300, 2000, LightLevel.BRIGHT).z), 2)
    0.15
    """
    return math.expm1(z * eye["distance_guess"])


def half_window_deg(setup: Setup, at: DrillTrial, *, eye: Eye = AVERAGE_EYE) -> float:
    """Return half the sharp window on the ring where a trial is done, degrees.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    at
        The trial as it was set up.
    eye
        Constants of the eye and of the aids; those of an average eye where none are given.
    """
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
