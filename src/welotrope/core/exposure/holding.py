"""How slow a shutter a camera can be held at.

The usual rule, 1/focal length for a 36 × 24 mm picture, is for a blur of that picture's diagonal / 1500. The blur of a
shaking hand grows with the time, so a stricter standard takes a faster shutter in proportion.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from welotrope.core.optics.sharpness import ImageFormat

FULL_DIAGONAL_MM = math.hypot(36, 24)
PRINT_SHARE = 1500


@dataclass(frozen=True)
class Holding:
    """How the camera is held: by how many stops slower than by hand one may go; None when it does not move."""

    id: str
    name: str
    stops: float | None


# What leaning and one leg bring is assumed, from what photographers tell; a stabiliser is taken at its modest end.
HOLDINGS: tuple[Holding, ...] = (
    Holding("hand", "hand-held", 0.0), Holding("leaning", "hand-held, leaning or seated", 1.0),
    Holding("stabilised", "hand-held, stabiliser on", 3.0), Holding("monopod", "on a monopod", 2.0),
    Holding("tripod", "on a tripod", None),
)  # fmt: skip
HOLDING_BY_ID = {holding.id: holding for holding in HOLDINGS}


def slowest_held(
    focal_mm: float, image: ImageFormat, blur_mm: float, holding: Holding, *, own_factor: float = 1.0
) -> float:
    """Return the slowest shutter time, s, that shake leaves within ``blur_mm``; infinite on a tripod.

    Parameters
    ----------
    focal_mm
        Focal length, mm.
    image
        Picture format: a smaller one is enlarged more.
    blur_mm
        What counts as sharp, mm.
    holding
        Camera support.
    own_factor
        How many times slower than the rule the photographer's own hand is good for.

    Examples
    --------
    >>> full = ImageFormat(36, 24)
    >>> round(1 / slowest_held(50, full, full.diagonal_mm / 1500, HOLDINGS[0]))
    50
    """
    if holding.stops is None:
        return math.inf
    equivalent = focal_mm * FULL_DIAGONAL_MM / image.diagonal_mm
    stricter = blur_mm / (image.diagonal_mm / PRINT_SHARE)
    return float(own_factor * stricter * 2**holding.stops / equivalent)
