"""Which focal length to begin with for a picture so wide at a distance, and what stop its zone then takes."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.errors import OutOfRangeError
from welotrope.core.optics.sharpness import ImageFormat
from welotrope.core.plan.zone import ZonePlan, plan_film_zone


@dataclass(frozen=True, kw_only=True)
class BeginWith:
    """A focal length, mm, to begin with; the stop its zone needs, exactly; and the magnification there."""

    focal_mm: float
    stop_exact: float
    magnification: float


def focal_to_begin(image: ImageFormat, distance_mm: float, width_mm: float) -> float:
    """Return the focal length, mm, whose picture is ``width_mm`` wide at a distance, mm from the film plane.

    ``D = f·(1 + m)²/m`` with ``m`` the width of the picture over that of what it shows, the principal planes together.

    Raises
    ------
    OutOfRangeError
        When it is larger than life.

    Examples
    --------
    >>> round(focal_to_begin(ImageFormat(36, 24), 2000, 1394.6), 1)
    49.1
    """
    m = image.width_mm / width_mm
    if not 0 < m <= 1:
        raise OutOfRangeError(
            "width", f"{width_mm:g} mm", "that is larger than life, which another lens is for",
            f"Write {image.width_mm:g} mm or more",
        )  # fmt: skip
    return distance_mm * m / (1 + m) ** 2


def begin_with(
    image: ImageFormat, near_mm: float, far_mm: float, distance_mm: float, width_mm: float, blur_mm: float
) -> BeginWith:
    """Return what to begin with for a zone, mm from the film plane, framed so wide at a distance.

    ``blur_mm`` is what counts as sharp. Errors as :func:`focal_to_begin` and ``plan_film_zone``.
    """
    focal = focal_to_begin(image, distance_mm, width_mm)
    plan: ZonePlan = plan_film_zone(near_mm, far_mm, focal, blur_mm, (1.0, 128.0))
    return BeginWith(focal_mm=focal, stop_exact=plan.stop_exact, magnification=image.width_mm / width_mm)
