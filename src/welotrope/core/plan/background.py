"""How far a background dissolves: the blur disc of what lies behind the plane, in the picture."""

from __future__ import annotations

import math


def background_blur(focal_mm: float, stop: float, object_mm: float, *, behind_mm: float = math.inf) -> float:
    """Return the diameter of the blur disc on the film, mm, of a point behind the subject.

    ``(f/N)·m·Δ/(s + Δ)`` with ``m = f/(s − f)``: similar triangles behind a thin lens whose pupil is ``f/N`` wide.

    Parameters
    ----------
    focal_mm, stop
        Focal length, mm, and f-number.
    object_mm
        Distance focused, mm from the front principal plane, more than the focal length; may be infinite.
    behind_mm
        How far the point lies behind the subject, mm; infinite for the far background.

    Examples
    --------
    >>> round(background_blur(100, 4, 1100), 2)
    2.5
    """
    if math.isinf(object_mm):
        return 0.0
    m = focal_mm / (object_mm - focal_mm)
    return focal_mm / stop * m * (1.0 if math.isinf(behind_mm) else behind_mm / (object_mm + behind_mm))
