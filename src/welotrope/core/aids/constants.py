"""Every constant of the eye and of the aids, in one table: models of an average eye, all open to change."""

from __future__ import annotations

import math
from dataclasses import dataclass


@dataclass(frozen=True)
class Constant:
    """A number an aid model rests on, with its unit, what it means and where it comes from."""

    id: str
    value: float
    unit: str
    text: str
    source: str


CONSTANTS: tuple[Constant, ...] = (
    Constant("eyepiece_focal", 50.0, "mm", "apparent focal length of the finder at 1× with a 50 mm lens",
             "definition of finder magnification"),
    Constant("eye_blur", 1.0, "arc-minute", "smallest blur an eye sees on a matte screen", "normal visual acuity"),
    Constant("vernier_split", 20.0, "arc-second", "smallest offset of two halves of a line an eye sees",
             "vernier acuity, usually given as 10 to 30 arc-seconds"),
    Constant("display_blur", 2.0, "pixels", "smallest blur seen on a magnified picture, in sensor pixels",
             "two samples make the finest resolvable pair"),
    Constant("eye_display", 1.0, "display pixels", "smallest blur the eye separates on the display",
             "a display pixel seen at about one arc-minute"),
    Constant("edge_contrast", 0.5, "", "contrast of a hard, well-lit edge", "assumed"),
    Constant("lens_blur", 0.010, "mm", "a lens's own blur at its plane of focus, without diffraction", "assumed"),
)  # fmt: skip

_BY_ID = {constant.id: constant.value for constant in CONSTANTS}


def constant(id: str) -> float:
    """Return a constant's value in the unit of the table."""
    return _BY_ID[id]


def arcmin(value: float) -> float:
    """Arc-minutes to radians."""
    return math.radians(value / 60)


def arcsec(value: float) -> float:
    """Arc-seconds to radians."""
    return math.radians(value / 3600)
