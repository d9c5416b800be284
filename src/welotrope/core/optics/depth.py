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
from welotrope.core.optics.elementwise import Values, as_given
from welotrope.core.units.stops import check_stop

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
    """Return ``c`` when it lies in 0.0001 to 2 mm, else raise OutOfRangeError."""
    if not MIN_BLUR_MM <= c <= MAX_BLUR_MM:
        raise OutOfRangeError(
            field, f"{c:g} mm", "that is no usable idea of sharp", "Write 0.0001 to 2 mm, such as 0.03"
        )
    return c


def aperture_diameter(f: float, N: float) -> float:
    """Entrance-pupil diameter ``A = f/N`` in mm.

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

    Examples
    --------
    >>> round(hyperfocal_extension(40, 11, 0.028), 4)
    0.308
    """
    return check_stop(N) * check_blur(c)


def hyperfocal_object_distance(f: float, N: float, c: float) -> float:
    """Hyperfocal distance ``s_H = f²/(N·c) + f`` in mm from the front principal plane.

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
