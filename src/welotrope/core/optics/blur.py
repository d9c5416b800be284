"""Blur of a point: by defocus, by diffraction, and the stop that balances the two."""

from __future__ import annotations

import math

import numpy as np

from welotrope.core.optics.depth import aperture_diameter, check_blur
from welotrope.core.optics.elementwise import Values, as_given


def defocus_blur(x_point: Values, x_focus: float, f: float, N: float) -> Values:
    """Blur diameter in mm of a point imaged at extension ``x_point`` with the lens at ``x_focus``.

    ``b = A·|v'−v|/v'`` by similar triangles behind the lens (Ray, *Applied Photographic Optics*, ch. 22).

    Parameters
    ----------
    x_point
        Extension in mm at which the point is imaged.
    x_focus
        Extension in mm that the lens stands at.
    f
        Focal length in mm, 1 to 5000.
    N
        F-number, 0.5 to 128.

    Examples
    --------
    >>> round(defocus_blur(1.30, 1.25, 50, 2), 5)
    0.02437
    """
    v_point = f + np.asarray(x_point, dtype=np.float64)
    blur = aperture_diameter(f, N) * np.abs(v_point - (f + x_focus)) / v_point
    return as_given(blur, x_point)


WAVELENGTH_MM = 0.00055
BALANCE_PER_MM = 375.0


def airy_diameter(N_eff: float) -> float:
    """Diameter of the Airy disc's first dark ring, ``2.44·λ·N`` in mm, λ = 550 nm (Hecht, *Optics*, ch. 10).

    Parameters
    ----------
    N_eff
        Effective f-number.

    Examples
    --------
    >>> round(airy_diameter(16), 5)
    0.02147
    """
    return 2.44 * WAVELENGTH_MM * N_eff


def total_blur(b: float, airy: float) -> float:
    """Defocus and diffraction together, ``√(b² + airy²)`` in mm: an approximation, not an exact convolution.

    Parameters
    ----------
    b
        Blur diameter by defocus in mm.
    airy
        Diameter of the Airy disc in mm.

    Examples
    --------
    >>> total_blur(0.03, 0.04)
    0.05
    """
    return math.hypot(b, airy)


def balanced_stop(spread: float, *, m: float = 0.0, P: float = 1.0) -> float:
    """Return the marked f-number at which defocus over a focus spread (mm, > 0) and diffraction weigh the same.

    The working stop is ``√(375·Δv)``; the ring reads it divided by ``1 + m/P``, with the magnification ``m`` and the
    pupil magnification ``P``.

    Parameters
    ----------
    spread
        Extension in mm between the limits of the zone, more than 0.
    m
        Magnification, a ratio; 0 at infinity, 1 at life size.
    P
        Pupil magnification, a ratio.

    Examples
    --------
    >>> round(balanced_stop(1.0), 2)  # √375
    19.36
    """
    return math.sqrt(BALANCE_PER_MM * spread) / (1 + m / P)


def diffraction_limited_stop(c: float) -> float:
    """Return the f-number at which the Airy disc alone fills the acceptable blur ``c`` (mm).

    Parameters
    ----------
    c
        Acceptable blur diameter in mm, 0.0001 to 2.

    Examples
    --------
    >>> round(diffraction_limited_stop(0.03), 2)
    22.35
    """
    return check_blur(c) / (2.44 * WAVELENGTH_MM)
