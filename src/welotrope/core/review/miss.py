"""How far off a miss was on the ring, from what was sharp instead."""

from __future__ import annotations

import math
from dataclasses import dataclass

from welotrope.core.errors import WelotropeError
from welotrope.core.kit.setup import Setup
from welotrope.core.review.frame import Frame
from welotrope.core.review.outcomes import Outcome
from welotrope.core.ring.window import sharp_window


@dataclass(frozen=True, kw_only=True)
class RingMiss:
    """A miss: where focus fell, mm from the film plane, and in degrees of ring, positive behind the subject.

    ``windows`` is the same in half widths of the sharp window at the subject: beyond 1 the subject is not sharp.
    """

    plane_mm: float
    error_deg: float
    windows: float


def plane_of(subject_mm: float, error_mm: float, outcome: Outcome) -> float:
    """Return where focus fell, mm from the film plane, of a subject missed in front or behind by ``error_mm``.

    How far off from infinity is where it fell.

    Examples
    --------
    >>> plane_of(2000, 90, Outcome.BEHIND), plane_of(math.inf, 30000, Outcome.FRONT)
    (2090, 30000)
    """
    if math.isinf(subject_mm):
        return error_mm if outcome is Outcome.FRONT else subject_mm
    return subject_mm + error_mm if outcome is Outcome.BEHIND else subject_mm - error_mm


def ring_miss(setup: Setup, frame: Frame) -> RingMiss | None:
    """Return the miss of a frame on the ring of its set-up; None where too little of it is known.

    The subject is where it was believed to be, else where the ring was set. A zoom is taken at the focal length the
    frame has, wherever it stands now.

    Examples
    --------
    See ``tests/core/review/test_miss.py``, where the ring of a thin lens is turned by hand.
    """
    subject, off = frame.said_mm, frame.miss_mm
    if subject is None or off is None or frame.stop is None or frame.outcome is None or not frame.outcome.is_miss:
        return None
    setup = setup if frame.focal_mm is None else setup.at_focal(frame.focal_mm)
    ring = setup.ring(frame.stop)
    plane = plane_of(subject, off, frame.outcome)
    try:
        right = float(ring.angle_at_distance(ring.check_reach(subject)))
        error = right - float(ring.angle_at_distance(plane))  # degrees are counted from infinity
    except WelotropeError:  # the subject is nearer than the ring goes, or the plane than a lens can image
        return None
    window = float(sharp_window(ring, right, frame.stop, setup.blur_mm).width_deg)
    return RingMiss(plane_mm=plane, error_deg=error, windows=error / (window / 2))
