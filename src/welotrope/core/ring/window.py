"""The sharp window: how much of the ring keeps the subject within the standard."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Generic

from welotrope.core.optics.depth import sharp_limits
from welotrope.core.optics.elementwise import Values
from welotrope.core.optics.film_zone import FilmZone, film_zone
from welotrope.core.optics.thin_lens import vergence_of_image
from welotrope.core.ring.focus_ring import FocusRing


@dataclass(frozen=True)
class RingWindow(Generic[Values]):
    """Ring angles in degrees from infinity of the near and far limits, negative past infinity, and what they show.

    ``near_vergence`` and ``far_vergence`` are the reciprocal distances of the limits from the film plane, 1/mm: the
    film stays where the ring put it, so they are not those of the ring turned to the limits. 0 is infinity.
    """

    near_deg: Values
    far_deg: Values
    near_vergence: Values
    far_vergence: Values

    @property
    def width_deg(self) -> Values:
        """Width of the window in degrees of ring, the part past infinity included."""
        return self.near_deg - self.far_deg


def sharp_window(ring: FocusRing, angle_deg: Values, N: float, c: float) -> RingWindow[Values]:
    """Return where the near and far limits lie, degrees, when the index is at ``angle_deg``.

    Exact; close to ``2·N·c·(1+m)·360/L`` wide. Raises as :func:`optics.depth.sharp_limits`.

    Examples
    --------
    >>> from welotrope.core.ring.helicoid import Helicoid
    >>> ring = Helicoid(focal_mm=50, lead_mm=10.8, throw_deg=200)
    >>> round(sharp_window(ring, 0.0, 2, 0.03).width_deg, 2)
    4.0
    """
    x, f, h = ring.extension_at_angle(angle_deg), ring.focal_mm, ring.h_mm
    limits = sharp_limits(x, f, N, c)
    return RingWindow(
        ring.angle_at_extension(limits.near_x),
        ring.angle_at_extension(limits.far_x),
        vergence_of_image(limits.near_x, x, f, h),
        vergence_of_image(limits.far_x, x, f, h),
    )


def ring_zone(ring: FocusRing, angle_deg: float, N: float, c: float) -> FilmZone:
    """Return the sharp zone in front of the film, mm, with the index at ``angle_deg``; errors as for the window.

    Examples
    --------
    >>> from welotrope.core.ring.helicoid import Helicoid
    >>> ring = Helicoid(focal_mm=50, lead_mm=10.8, throw_deg=230)
    >>> zone = ring_zone(ring, ring.angle_at_distance(450), 5.6, 0.03)
    >>> round(zone.near_mm, 2), round(zone.far_mm, 2)
    (441.16, 459.26)
    """
    return film_zone(float(ring.extension_at_angle(angle_deg)), ring.focal_mm, N, c, ring.h_mm)
