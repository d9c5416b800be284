"""The sharp zone as it lies in front of the film: limits from the film plane, the lens standing at its focus."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.halving import where_it_ends
from welotrope.core.optics.depth import BLUR_TOLERANCE, SharpLimits, aperture_diameter, sharp_limits
from welotrope.core.optics.thin_lens import (
    extension_at_film_distance,
    film_distance_at_extension,
    film_distance_of_image,
)


@dataclass(frozen=True)
class FilmZone:
    """What is sharp with the lens at one setting; mm from the film plane, infinite where there is no end.

    Parameters
    ----------
    focus_mm, near_mm, far_mm
        Plane of focus, and where blur reaches the acceptable one.
    inside_near_mm, inside_far_mm
        Where it exceeds that by the tolerance of :data:`optics.depth.BLUR_TOLERANCE`.
    """

    focus_mm: float
    near_mm: float
    far_mm: float
    inside_near_mm: float
    inside_far_mm: float

    def contains(self, distance_mm: float) -> bool:
        """Whether something at ``distance_mm`` from the film plane, mm, is sharp, within the tolerance."""
        return self.inside_near_mm <= distance_mm <= self.inside_far_mm


def film_zone(x: float, f: float, N: float, c: float, *, h: float = 0.0) -> FilmZone:
    """Return the sharp zone, mm, of a lens at extension ``x``; parameters and errors as for ``sharp_limits``.

    Examples
    --------
    >>> zone = film_zone(50.0, 100, 16, 0.03)  # half life size
    >>> round(zone.near_mm, 2), round(zone.far_mm, 2)
    (447.15, 452.91)
    """
    limits = sharp_limits(x, f, N, c)
    wider = sharp_limits(x, f, N, min(c * BLUR_TOLERANCE, aperture_diameter(f, N) * (1 - 1e-9)))
    return FilmZone(film_distance_at_extension(x, f, h=h), *_ends(limits, x, f, h), *_ends(wider, x, f, h))


def _ends(limits: SharpLimits[float], x: float, f: float, h: float) -> tuple[float, float]:
    near, far = (film_distance_of_image(at, x, f, h=h) for at in (limits.near_x, limits.far_x))
    return near, far


def film_zone_extension(near_mm: float, far_mm: float, f: float, *, h: float = 0.0, beyond: bool = False) -> float:
    """Return the extension that blurs two distances from the film plane alike.

    The root of ``1/v = 1/f − (1/(D₁−v−h) + 1/(D₂−v−h))/2``, found by halving: the left side less the right falls from
    the infinity position to life size and grows beyond it.

    Examples
    --------
    >>> x = film_zone_extension(450, 456, 100)
    >>> round((100 + x) ** 2 / x, 2)  # mm from the film
    452.97
    """

    def imbalance(v: float) -> float:
        return 1 / v - 1 / f + (1 / (near_mm - v - h) + 1 / (far_mm - v - h)) / 2

    # Both ends alone bracket the focus: it lies between the settings for each of them.
    ends = sorted(f + float(extension_at_film_distance(mm, f, h=h, beyond=beyond)) for mm in (near_mm, far_mm))
    low, high = ends[0], min(ends[1], near_mm - h - f)
    return where_it_ends(lambda v: (imbalance(v) > 0) != beyond, low, high) - f
