"""Blur of a point that is not in the plane of focus."""

from __future__ import annotations

import numpy as np

from welotrope.core.optics.depth import aperture_diameter
from welotrope.core.optics.elementwise import Values, as_given


def defocus_blur(x_point: Values, x_focus: float, f: float, N: float) -> Values:
    """Blur diameter in mm of a point imaged at extension ``x_point`` with the lens at ``x_focus``.

    ``b = A·|v'−v|/v'`` by similar triangles behind the lens (Ray, *Applied Photographic Optics*, ch. 22).

    Examples
    --------
    >>> round(defocus_blur(1.30, 1.25, 50, 2), 5)
    0.02437
    """
    v_point = f + np.asarray(x_point, dtype=np.float64)
    blur = aperture_diameter(f, N) * np.abs(v_point - (f + x_focus)) / v_point
    return as_given(blur, x_point)
