"""What turning the camera after focusing does: the plane of focus turns with it and falls behind the subject."""

from __future__ import annotations

import math

from welotrope.core.errors import OutOfRangeError

MOST_TURN_DEG = 89.0


def recompose_shift(distance_mm: float, angle_deg: float) -> float:
    """Return how far behind the subject the plane falls, mm: ``d·(1 − cos φ)``.

    Parameters
    ----------
    distance_mm
        Of the subject from the entrance pupil, mm, focused on the axis; may be infinite.
    angle_deg
        Turned by afterwards, −89 to 89°.

    Raises
    ------
    OutOfRangeError
        When the angle is out of range.

    Examples
    --------
    >>> round(recompose_shift(1500, 20), 2)
    90.46
    """
    if not -MOST_TURN_DEG <= angle_deg <= MOST_TURN_DEG:
        raise OutOfRangeError(
            "angle", f"{angle_deg:g}°", "turned so far the subject is out of any picture",
            f"Write 0 to {MOST_TURN_DEG:g}°; a head moved to the third of a normal lens takes about 7°",
        )  # fmt: skip
    lost = 1 - math.cos(math.radians(angle_deg))
    return 0.0 if lost == 0 else distance_mm * lost


def turn_for_offset(offset_mm: float, v_mm: float) -> float:
    """Return the angle, degrees, that moves a subject from the middle by ``offset_mm`` on the picture, ``v`` mm away.

    Examples
    --------
    >>> round(turn_for_offset(6, 50), 2)
    6.84
    """
    return math.degrees(math.atan2(offset_mm, v_mm))
