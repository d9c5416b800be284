"""The sharp window: how much of the ring keeps the subject within the standard."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Generic

from welotrope.core.optics.depth import sharp_limits
from welotrope.core.optics.elementwise import Values
from welotrope.core.ring.focus_ring import FocusRing


@dataclass(frozen=True)
class RingWindow(Generic[Values]):
    """Ring angles in degrees from infinity of the near and far limits; negative is past infinity."""

    near_deg: Values
    far_deg: Values

    @property
    def width_deg(self) -> Values:
        """Width of the window in degrees of ring, the part past infinity included."""
        return self.near_deg - self.far_deg


def sharp_window(ring: FocusRing, angle_deg: Values, N: float, c: float) -> RingWindow[Values]:
    """Return where the near and far limits lie on the ring when the index is at ``angle_deg``.

    Exact; close to ``2·N·c·(1+m)·360/L`` wide. Raises as :func:`optics.depth.sharp_limits`.
    """
    limits = sharp_limits(ring.extension_at_angle(angle_deg), ring.focal_mm, N, c)
    return RingWindow(ring.angle_at_extension(limits.near_x), ring.angle_at_extension(limits.far_x))
