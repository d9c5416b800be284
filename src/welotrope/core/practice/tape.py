"""How far a ring was left from the line on its tape: along the ring, in degrees, or by its own scale."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import StrEnum

from welotrope.core.errors import OutOfRangeError
from welotrope.core.kit.setup import Setup
from welotrope.core.practice.drills import DrillTrial


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
