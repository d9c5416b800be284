"""“Focus at the long end, then zoom”: where the plane then lies, and whether the stop forgives it."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.kit.mount import YesNoUnknown
from welotrope.core.kit.setup import Setup
from welotrope.core.ring.window import ring_zone


@dataclass(frozen=True, kw_only=True)
class FocusThenZoom:
    """What focusing at the long end gives at the focal length in hand.

    Parameters
    ----------
    subject_mm, plane_mm
        The subject, and where the plane lies after zooming, mm from the film plane.
    finer
        How many times less a slip of the ring blurs here than at the long end: the square of the focal lengths.
    holds
        Whether the subject is still within the sharp range at the stop.
    holds_from
        The widest marked stop at which it is; None when it is at none.
    known
        Whether the lens is known to keep its focus: entered as parfocal, or tried at both ends.
    """

    subject_mm: float
    plane_mm: float
    finer: float
    holds: bool
    holds_from: float | None
    known: bool


def focus_then_zoom(setup: Setup, stop: float, subject_mm: float) -> FocusThenZoom:
    """Return what it gives for a subject, mm from the film plane; the set-up zooms and is not at its long end.

    Errors as ``FocusRing.check_near``.
    """
    long = setup.zoomed(None)
    angle = float(long.ring().angle_at_distance(long.ring().check_near(subject_mm)))
    stops = [marked for marked in sorted(setup.lens.stops) if _within(setup, angle, marked, subject_mm)]
    return FocusThenZoom(
        subject_mm=subject_mm, plane_mm=float(setup.ring().distance_at_angle(angle)),
        finer=(long.lens.focal_mm / setup.lens.focal_mm) ** 2, holds=_within(setup, angle, stop, subject_mm),
        holds_from=stops[0] if stops else None,
        known=setup.lens.zoom.tried or setup.lens.zoom.parfocal is YesNoUnknown.YES,
    )  # fmt: skip


def _within(setup: Setup, angle_deg: float, stop: float, subject_mm: float) -> bool:
    zone = ring_zone(setup.ring(stop), angle_deg, stop, setup.blur_mm)
    return zone.near_mm <= subject_mm <= zone.far_mm
