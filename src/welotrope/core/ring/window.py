"""The sharp window: how far the ring may be turned while a subject that stays is within the standard."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Generic

import numpy as np

from welotrope.core.optics.depth import FilmZone, film_zone, sharp_limits
from welotrope.core.optics.elementwise import Values, as_given
from welotrope.core.optics.thin_lens import vergence_of_image
from welotrope.core.optics.turning import sharp_turning
from welotrope.core.ring.focus_ring import FocusRing


@dataclass(frozen=True)
class RingWindow(Generic[Values]):
    """What a ring angle holds, degrees from infinity, negative past infinity.

    Parameters
    ----------
    near_deg, far_deg
        Places of the depth marks: on a true scale they read the near and far limit.
    width_deg
        Range of ring angle over which the subject in focus, which stays where it is, keeps within the acceptable blur;
        the part past infinity included.
    near_vergence, far_vergence
        Reciprocal distances of the limits from the film plane, 1/mm: the film stays where the ring put it, so they are
        not those of the ring turned to the limits' images. 0 is infinity.
    """

    near_deg: Values
    far_deg: Values
    width_deg: Values
    near_vergence: Values
    far_vergence: Values


def sharp_window(ring: FocusRing, angle_deg: Values, N: float, c: float) -> RingWindow[Values]:
    """Return the depth marks and the sharp window, degrees, when the index is at ``angle_deg``.

    Exact; the window is close to ``2·N·c/(1−m)·360/L`` wide below life size, and grows without end towards it, where
    turning the ring no longer focuses. Raises as :func:`optics.depth.sharp_limits`.

    Parameters
    ----------
    ring
        The focus ring.
    angle_deg
        Angle of the ring in degrees from its infinity stop.
    N
        F-number, 0.5 to 128.
    c
        Acceptable blur diameter in mm, 0.0001 to 2.

    Examples
    --------
    >>> from welotrope.core.ring.helicoid import Helicoid
    >>> ring = Helicoid(focal_mm=50, lead_mm=10.8, throw_deg=200)
    >>> round(sharp_window(ring, 0.0, 2, 0.03).width_deg, 2)
    4.0
    """
    x, f, h = ring.extension_at_angle(angle_deg), ring.focal_mm, ring.h_mm
    limits = sharp_limits(x, f, N, c)
    turning = sharp_turning(x, f, N, c)
    near, far = (vergence_of_image(at, x, f, h=h) for at in (limits.near_x, limits.far_x))
    width = np.abs(
        np.asarray(ring.angle_at_extension(turning.near_x)) - np.asarray(ring.angle_at_extension(turning.far_x))
    )
    return RingWindow(ring.angle_at_vergence(near), ring.angle_at_vergence(far), as_given(width, angle_deg), near, far)


def ring_zone(ring: FocusRing, angle_deg: float, N: float, c: float) -> FilmZone:
    """Return the sharp zone in front of the film, mm, with the index at ``angle_deg``; errors as for the window.

    Parameters
    ----------
    ring
        The focus ring.
    angle_deg
        Angle of the ring in degrees from its infinity stop.
    N
        F-number, 0.5 to 128.
    c
        Acceptable blur diameter in mm, 0.0001 to 2.

    Examples
    --------
    >>> from welotrope.core.ring.helicoid import Helicoid
    >>> ring = Helicoid(focal_mm=50, lead_mm=10.8, throw_deg=230)
    >>> zone = ring_zone(ring, ring.angle_at_distance(450), 5.6, 0.03)
    >>> round(zone.near_mm, 2), round(zone.far_mm, 2)
    (441.16, 459.26)
    """
    return film_zone(float(ring.extension_at_angle(angle_deg)), ring.focal_mm, N, c, h=ring.h_mm)
