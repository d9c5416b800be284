"""Stars: how long before they trail, and what a little of the ring costs."""

from __future__ import annotations

import math

from welotrope.core.errors import OutOfRangeError
from welotrope.core.optics.depth import check_blur
from welotrope.core.optics.thin_lens import check_focal

SIDEREAL_RATE = 7.2921e-5
"""Angular rate of the sky, rad/s (IERS Conventions 2010: 7.292115e-5)."""


def trail_time(focal_mm: float, trail_mm: float, *, declination_deg: float = 0.0) -> float:
    """Return the longest exposure, s, before a star trails by ``trail_mm``: ``t = trail/(f·ω·cos δ)``.

    Parameters
    ----------
    focal_mm
        Focal length, mm.
    trail_mm
        Allowed on the film or sensor, mm.
    declination_deg
        Of the star, −90 to 90°; infinite at the pole.

    Raises
    ------
    OutOfRangeError
        When a value is out of range.

    Examples
    --------
    >>> round(trail_time(20, 2 * 0.006), 3), round(trail_time(20, 2 * 0.006, declination_deg=60), 3)
    (8.228, 16.456)
    """
    if not -90 <= declination_deg <= 90:
        raise OutOfRangeError(
            "declination", f"{declination_deg:g}°", "no star stands there", "Write −90° to 90°; 0 is the fastest"
        )
    turn = math.cos(math.radians(declination_deg))
    if abs(declination_deg) == 90:
        return math.inf
    return check_blur(trail_mm, field="trail") / (check_focal(focal_mm) * SIDEREAL_RATE * turn)
