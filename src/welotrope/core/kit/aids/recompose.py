"""Focusing in the middle and swinging back: how far the plane then falls behind, and whether the stop forgives it."""

from __future__ import annotations

import math

from welotrope.core.kit.aids.viewing_optics import PLACE_SHARES, FramePlace, ViewingOptics
from welotrope.core.optics.depth import sharp_limits
from welotrope.core.optics.thin_lens import object_distance_at_extension


def recompose_error(object_mm: float, angle_rad: float) -> float:
    """How far the plane falls behind a subject after focusing it on the axis and swinging by ``angle_rad``, mm.

    ``d·(1 − cos φ)`` with ``d`` the distance from the front principal plane.

    Parameters
    ----------
    object_mm
        Distance in mm of the subject from the front principal plane; infinity allowed.
    angle_rad
        Angle in radians that the camera is turned by.

    Examples
    --------
    >>> import math
    >>> round(recompose_error(2000, math.radians(15)), 1)
    68.1
    """
    return object_mm * (1 - math.cos(angle_rad))


def swing_angle(sight: ViewingOptics, place: FramePlace) -> float:
    """Return the angle from the axis to a place in the frame, radians.

    Parameters
    ----------
    sight
        The optics of a set-up at a setting.
    place
        Place in the frame.
    """
    return math.atan2(PLACE_SHARES[place] * sight.diagonal_mm / 2, sight.focal_mm + max(sight.focus_x, 0.0))


def near_room(sight: ViewingOptics) -> float:
    """How far a subject may come nearer than the plane before it is soft, mm; infinite at infinity.

    Parameters
    ----------
    sight
        The optics of a set-up at a setting.
    """
    limits = sharp_limits(sight.focus_x, sight.focal_mm, sight.stop, sight.blur_mm)
    near = float(object_distance_at_extension(limits.near_x, sight.focal_mm))
    return sight.object_mm - near


def recompose_holds(sight: ViewingOptics, place: FramePlace) -> bool:
    """Whether a subject at a place in the frame is still sharp after focusing it in the middle and swinging back.

    Parameters
    ----------
    sight
        The optics of a set-up at a setting.
    place
        Place in the frame.
    """
    if place is FramePlace.CENTRE or math.isinf(sight.object_mm):
        return True
    return recompose_error(sight.object_mm, swing_angle(sight, place)) <= near_room(sight)
