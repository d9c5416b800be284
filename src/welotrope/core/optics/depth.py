"""Depth of field in image space: the limits of the extension that keep blur within ``c``.

Everything is exact for a thin lens: aperture diameter ``A = f/N``; a lens focused at image distance
``v`` renders points imaged between ``v·A/(A+c)`` and ``v·A/(A−c)`` with a blur circle of at most ``c``
(Ray, *Applied Photographic Optics*, ch. 22). Diffraction is not part of it; see ``diffraction``.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Generic

import numpy as np

from welotrope.core.errors import OutOfRangeError, TooCloseError
from welotrope.core.halving import where_it_ends
from welotrope.core.optics.elementwise import Values, as_given
from welotrope.core.optics.thin_lens import (
    extension_at_film_distance,
    film_distance_at_extension,
    film_distance_of_image,
)
from welotrope.core.units.exposure import check_stop

MIN_BLUR_MM, MAX_BLUR_MM = 1e-4, 2.0
# What holds and what lies inside is taken with 2 % of blur, which no eye sees and no lens is known to.
BLUR_TOLERANCE = 1.02


@dataclass(frozen=True)
class SharpLimits(Generic[Values]):
    """Extensions in mm of the near and far limits; ``far_x ≤ 0`` means sharp to infinity and past it."""

    near_x: Values
    far_x: Values

    @property
    def spread(self) -> Values:
        """Extension between the limits, mm; counts the part past infinity."""
        return self.near_x - self.far_x


def check_blur(c: float, *, field: str = "blur circle") -> float:
    """Return ``c`` when it lies in 0.0001 to 2 mm, else raise OutOfRangeError.

    Parameters
    ----------
    c
        Acceptable blur diameter in mm, 0.0001 to 2.
    field
        What an error names.
    """
    if not MIN_BLUR_MM <= c <= MAX_BLUR_MM:
        raise OutOfRangeError(
            field, f"{c:g} mm", "that is no usable idea of sharp", "Write 0.0001 to 2 mm, such as 0.03"
        )
    return c


def aperture_diameter(f: float, N: float) -> float:
    """Entrance-pupil diameter ``A = f/N`` in mm.

    Parameters
    ----------
    f
        Focal length in mm, 1 to 5000.
    N
        F-number, 0.5 to 128.

    Examples
    --------
    >>> aperture_diameter(50, 2)
    25.0
    """
    return f / N


def sharp_limits(x: Values, f: float, N: float, c: float) -> SharpLimits[Values]:
    """Return the near and far limits, as extensions, of a lens focused at extension ``x``.

    Parameters
    ----------
    x
        Extension of the focus in mm, scalar or array; may be slightly negative (past infinity).
    f, N, c
        Focal length in mm, f-number 0.5 to 128, acceptable blur diameter in mm.

    Raises
    ------
    OutOfRangeError
        When the aperture is no larger than ``c`` (everything would count as sharp).

    Examples
    --------
    >>> x = 40**2 / (2500 - 40)
    >>> limits = sharp_limits(x, 40, 11, 0.028)
    >>> [round(40 + 40**2 / end, 1) for end in (limits.near_x, limits.far_x)]  # mm from the lens
    [1696.6, 4748.8]
    """
    share = sharp_share(f, N, c)
    v = f + np.asarray(x, dtype=np.float64)
    return SharpLimits(as_given(v / (1 - share) - f, x), as_given(v / (1 + share) - f, x))


def sharp_share(f: float, N: float, c: float) -> float:
    """Return the acceptable blur as a share of the aperture's diameter, ``N·c/f``; f and c in mm.

    Parameters
    ----------
    f
        Focal length in mm, 1 to 5000.
    N
        F-number, 0.5 to 128.
    c
        Acceptable blur diameter in mm, 0.0001 to 2.

    Raises
    ------
    OutOfRangeError
        When the aperture is no larger than ``c`` (everything would count as sharp).

    Examples
    --------
    >>> round(sharp_share(50, 2, 0.03), 6)
    0.0012
    """
    A = aperture_diameter(f, check_stop(N))
    check_blur(c)
    if c >= A:
        raise OutOfRangeError(
            "stop",
            f"f/{N:g}",
            f"the {A:.3g} mm opening is smaller than the blur allowed ({c:g} mm)",
            "Choose a wider stop or a smaller blur circle",
        )
    return c / A


def hyperfocal_extension(f: float, N: float, c: float) -> float:
    """Return the extension, mm, whose far limit is exactly infinity: ``x = f²/(s_H − f) = N·c``.

    Parameters
    ----------
    f
        Focal length in mm, 1 to 5000.
    N
        F-number, 0.5 to 128.
    c
        Acceptable blur diameter in mm, 0.0001 to 2.

    Examples
    --------
    >>> round(hyperfocal_extension(40, 11, 0.028), 4)
    0.308
    """
    return check_stop(N) * check_blur(c)


def hyperfocal_object_distance(f: float, N: float, c: float) -> float:
    """Hyperfocal distance ``s_H = f²/(N·c) + f`` in mm from the front principal plane.

    Parameters
    ----------
    f
        Focal length in mm, 1 to 5000.
    N
        F-number, 0.5 to 128.
    c
        Acceptable blur diameter in mm, 0.0001 to 2.

    Examples
    --------
    >>> round(hyperfocal_object_distance(40, 11, 0.028), 1)
    5234.8
    """
    return f * f / hyperfocal_extension(f, N, c) + f


def extension_with_limit(
    distance_mm: float, f: float, N: float, c: float, *, far: bool, h: float = 0.0, beyond: bool = False
) -> float:
    """Return the extension, mm, to set so that a limit of the zone falls ``distance_mm`` from the film plane.

    The far limit is imaged at ``q·v`` with ``q = A/(A+c)``, the near limit with ``q = A/(A−c)``; with the object at
    ``s = D − v − h`` the lens equation gives ``q·v² − (q(D−h) + f(1−q))·v + f(D−h) = 0``. ``far`` chooses the limit,
    ``beyond`` the solution above life size.

    Parameters
    ----------
    distance_mm
        Distance in mm; infinity allowed.
    f
        Focal length in mm, 1 to 5000.
    N
        F-number, 0.5 to 128.
    c
        Acceptable blur diameter in mm, 0.0001 to 2.
    far
        Whether the far limit is meant, else the near one.
    h
        Separation of the principal planes in mm; 0 for a thin lens, negative where they cross.
    beyond
        Whether the solution above life size is wanted.

    Raises
    ------
    TooCloseError
        When no setting puts the limit so near.
    """
    A = aperture_diameter(f, check_stop(N))
    q = A / (A + check_blur(c)) if far else A / (A - c)
    return extension_imaging_at(distance_mm, q, f, h=h, beyond=beyond)


def extension_imaging_at(distance_mm: float, q: float, f: float, *, h: float = 0.0, beyond: bool = False) -> float:
    """Return the extension, mm, to set so that a distance from the film plane, mm, is imaged at ``q`` times ``v``.

    ``q`` is 1 in focus, below 1 farther off; else as :func:`extension_with_limit`, whose equation it solves.

    Parameters
    ----------
    distance_mm
        Distance in mm; infinity allowed.
    q
        Where it is imaged, as a ratio to the image distance ``v``.
    f
        Focal length in mm, 1 to 5000.
    h
        Separation of the principal planes in mm; 0 for a thin lens, negative where they cross.
    beyond
        Whether the solution above life size is wanted.

    Examples
    --------
    >>> round(extension_imaging_at(450.0, 1.0, 100), 6)
    50.0
    """
    if math.isinf(distance_mm):
        return f / q - f
    reach = distance_mm - h
    middle = q * reach + f * (1 - q)
    square = middle * middle - 4 * q * f * reach
    if reach <= 0 or square < 0:
        raise TooCloseError(
            "distance", f"{distance_mm:g} mm from the film plane", "no setting of this lens is sharp so near",
            f"Give at least {4 * f + h:.4g} mm, where the lens works at life size",
        )  # fmt: skip
    root = middle + math.sqrt(square)
    return (root / (2 * q) if beyond else 2 * f * reach / root) - f


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

    Parameters
    ----------
    x
        Extension in mm from the infinity position; negative past it.
    f
        Focal length in mm, 1 to 5000.
    N
        F-number, 0.5 to 128.
    c
        Acceptable blur diameter in mm, 0.0001 to 2.
    h
        Separation of the principal planes in mm; 0 for a thin lens, negative where they cross.

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

    Parameters
    ----------
    near_mm
        Nearest distance in mm.
    far_mm
        Farthest distance in mm; infinity allowed.
    f
        Focal length in mm, 1 to 5000.
    h
        Separation of the principal planes in mm; 0 for a thin lens, negative where they cross.
    beyond
        Whether the solution above life size is wanted.

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
