"""Distances by one's own height: how far off the ground is where one looks down at an angle."""

from __future__ import annotations

import math
from dataclasses import dataclass

from welotrope.core.errors import OutOfRangeError

ANGLES_DEG = (60.0, 45.0, 30.0, 20.0, 15.0, 10.0)


@dataclass(frozen=True, kw_only=True)
class GroundRow:
    """Looking down by an angle, degrees: how far off the ground is, mm from the eye, and from one's feet."""

    down_deg: float
    from_eye_mm: float
    from_feet_mm: float


def ground_row(height_mm: float, down_deg: float) -> GroundRow:
    """Return how far off flat ground is for an eye at a height, mm, that looks down by an angle, 1 to 90 degrees.

    Raises
    ------
    OutOfRangeError
        When the angle is out of range.

    Examples
    --------
    >>> found = ground_row(1600, 30)
    >>> round(found.from_eye_mm), round(found.from_feet_mm)
    (3200, 2771)
    """
    if not 1 <= down_deg <= 90:
        raise OutOfRangeError("angle", f"{down_deg:g}°", "out of range", "Write 1 to 90°")
    down = math.radians(down_deg)
    return GroundRow(
        down_deg=down_deg, from_eye_mm=height_mm / math.sin(down), from_feet_mm=height_mm / math.tan(down)
    )  # fmt: skip
