"""How far a lens may be moved before a subject that stays, before a film that stays, is no longer sharp.

Turning the ring moves the lens: the subject's distance from the lens changes with it, so that a movement ``dx`` makes
a defocus of ``(1 − m²)·dx`` only, and nothing at life size. With ``D − h`` from film to subject less the separation of
the principal planes and the lens at image distance ``v``, the point is imaged at ``v' = 1/(1/f − 1/(D − h − v))``, and
its blur is the share ``a`` of the aperture where ``v = q·v'`` with ``q = 1 ± a`` (similar triangles behind the lens;
Ray, *Applied Photographic Optics*, ch. 22). That is a quadratic in ``v``, solved here in reciprocals so that infinity,
and what lies past it, are values like any other.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Generic

import numpy as np
from numpy.typing import NDArray

from welotrope.core.optics.depth import sharp_share
from welotrope.core.optics.elementwise import Values, as_given

_Array = NDArray[np.float64]


@dataclass(frozen=True)
class TurningRange(Generic[Values]):
    """Extensions in mm between which a subject that stays is sharp, on both sides of the one that focuses it."""

    near_x: Values
    far_x: Values

    @property
    def width(self) -> Values:
        """Extension between the ends, mm."""
        return self.near_x - self.far_x


def turning_range(x: Values, f: float, aperture_share: Values | float) -> TurningRange[Values]:
    """Return the extensions between which the subject in focus at ``x`` keeps its blur within a share of the aperture.

    Near life size a subject is in focus at two extensions; where it stays sharp in between, the range holds both.

    Parameters
    ----------
    x, f
        Extension of the focus, mm, negative past infinity; and focal length, mm.
    aperture_share
        Acceptable blur over the diameter of the aperture, ``N·c/f``, above 0 and below 1. A defocus of ``δ`` mm in
        image space is a share of about ``δ/(f + x)``.

    Examples
    --------
    >>> import math
    >>> half_life_size = turning_range(50.0, 100, 4 * 0.03 / 100)
    >>> round(half_life_size.width, 3)  # 2·N·c/(1 − m)
    0.48
    """
    focus = np.asarray(x, dtype=np.float64)
    share = np.asarray(aperture_share, dtype=np.float64)
    v = f + focus
    vergence = focus / (v * v)  # 1/(D − h)
    # Blur on one side and on the other; each with a root below and one above life size.
    nearer, nearer_beyond = _roots(1 / (1 + share), f, vergence)
    farther, farther_beyond = _roots(1 / (1 - share), f, vergence)
    parted = np.isfinite(nearer)
    above = v > f * 2
    high = np.where(parted & ~above, nearer, farther_beyond)
    low = np.where(parted & above, nearer_beyond, farther)
    return TurningRange(as_given(high - f, x), as_given(low - f, x))


def sharp_turning(x: Values, f: float, N: float, c: float) -> TurningRange[Values]:
    """Return the extensions between which the subject in focus at ``x`` is sharp at f-number ``N``, blur ``c`` mm.

    Raises as :func:`optics.depth.sharp_share`.

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

    Examples
    --------
    >>> round(sharp_turning(50.0, 100, 4, 0.03).width, 3)  # 2·N·c/(1 − m)
    0.48
    """
    return turning_range(x, f, sharp_share(f, N, c))


def _roots(q: _Array, f: float, vergence: _Array) -> tuple[_Array, _Array]:
    """Return image distances ``v`` at which the subject is imaged at ``v/q``: below and above life size, else NaN."""
    middle = q + f * (1 - q) * vergence
    square = middle * middle - 4 * q * f * vergence
    root = np.sqrt(np.where(square >= 0, square, np.nan))
    below = 2 * f / (middle + root)
    rest = middle - root
    beyond = np.where(np.abs(rest) > 1e-12, 2 * f / np.where(rest == 0, 1.0, rest), np.inf)
    return below, np.where(beyond > 0, beyond, np.inf)
