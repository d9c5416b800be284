"""A simulated camera with a set-up's lens whose aid is off, so that a series can be tried without a camera."""

from __future__ import annotations

import math

from welotrope.core.kit.setup import Setup
from welotrope.core.testshot.camera import SimulatedCamera

_SIZE_PX = 1800
_NEAREST_MM, _IN_FOCALS = 500.0, 4.0  # how near it stands at least: mm, and in focal lengths
_SHEETS_HIGH = 255.0  # mm at the sheet that the picture's shorter side shows
_BIAS = 0.8  # how far the aid is off, in halves of the depth of field
_SCATTER = (0.1, -0.35, 0.3, -0.1, 0.2, -0.25, 0.35, 0.0)  # of each picture about that, the same
_MOST_MM = 50.0  # behind the mark, so that the plane stays on the sheet
_NOISE = 3.0


def made_up_camera(setup: Setup, stop: float, number: int) -> SimulatedCamera:
    """Return the camera that takes a picture of a made-up series.

    Parameters
    ----------
    setup, stop
        Whose focal length, format and criterion it has; f-number.
    number
        Of the picture, from 0.
    """
    image = setup.body.image
    focal, width = setup.lens.focal_mm, max(image.width_mm, image.height_mm)
    height = min(image.width_mm, image.height_mm)
    distance = max(_NEAREST_MM, _IN_FOCALS * focal, _SHEETS_HIGH * focal / height)
    half_depth = stop * setup.blur_mm * (distance / focal) ** 2
    return SimulatedCamera(
        focal_mm=focal, stop=stop, width_mm=width, size_px=(_SIZE_PX, round(_SIZE_PX * height / width)),
        distance_mm=distance, slope_deg=45.0, roll_deg=2.0 * math.sin(number), noise=_NOISE, seed=number + 1,
        plane_mm=min(half_depth * (_BIAS + _SCATTER[number % len(_SCATTER)]), _MOST_MM),
    )  # fmt: skip
