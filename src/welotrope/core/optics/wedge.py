"""When a prism in a focusing screen goes dark: one answer for the set-up sheet, the aids and the finder.

A wedge of deviation ``d`` passes a cone no slower than ``1/(2·tan d)`` (Ray, *Applied Photographic Optics*, ch. 41).
Close up the cone works at ``N(1 + m)``, so the wedge goes dark at a wider marked stop.
"""

from __future__ import annotations

import math

FADE = 0.12  # a third of a stop from the first shadow to black


def wedge_limit(deviation_deg: float) -> float:
    """Return the working f-number past which one half of a split image goes black, about ``1/(2·tan d)``.

    Parameters
    ----------
    deviation_deg
        Angle in degrees by which a prism bends light.

    Examples
    --------
    >>> round(wedge_limit(6.5), 2)
    4.39
    """
    return 1 / (2 * math.tan(math.radians(deviation_deg)))


def wedge_lit_stop(deviation_deg: float, *, m: float = 0.0) -> float:
    """Return the marked f-number to which a wedge stays lit at magnification ``m``.

    Parameters
    ----------
    deviation_deg
        Angle in degrees by which a prism bends light.
    m
        Magnification, a ratio; 0 at infinity, 1 at life size.

    Examples
    --------
    >>> round(wedge_lit_stop(6.5), 2)
    4.39
    """
    return wedge_limit(deviation_deg) / (1 + m)


def wedge_lit(deviation_deg: float, stop: float, *, m: float = 0.0) -> bool:
    """Whether a wedge is lit at a marked f-number and magnification ``m``.

    Parameters
    ----------
    deviation_deg
        Angle in degrees by which a prism bends light.
    stop
        F-number, 0.5 to 128.
    m
        Magnification, a ratio; 0 at infinity, 1 at life size.

    Examples
    --------
    >>> wedge_lit(6.5, 4), wedge_lit(6.5, 5.6)
    (True, False)
    """
    return stop <= wedge_lit_stop(deviation_deg, m=m)


def wedge_darkness(deviation_deg: float, stop: float, *, m: float = 0.0) -> float:
    """How dark a wedge has gone, a fraction: 0 while it is lit, 1 when black.

    Parameters
    ----------
    deviation_deg
        Angle in degrees by which a prism bends light.
    stop
        F-number, 0.5 to 128.
    m
        Magnification, a ratio; 0 at infinity, 1 at life size.

    Examples
    --------
    >>> wedge_darkness(6.5, 2)
    0.0
    """
    return min(max((stop / wedge_lit_stop(deviation_deg, m=m) - 1) / FADE, 0.0), 1.0)
