"""A set-up at a setting, and what there is to focus on."""

from __future__ import annotations

from dataclasses import dataclass, field

from welotrope.core.kit.aids.sight import Sight, Target
from welotrope.core.kit.setup import Setup
from welotrope.core.ring.window import sharp_window


@dataclass(frozen=True)
class Situation:
    """A set-up at a taking stop, a viewing stop and a ring angle (degrees), and the target."""

    setup: Setup
    stop: float
    view_stop: float
    angle_deg: float
    target: Target = field(default_factory=Target)

    @property
    def sight(self) -> Sight:
        """The optics of this situation."""
        setup = self.setup
        ring = setup.ring(self.stop)
        return Sight(
            focal_mm=setup.lens.focal_mm, focus_x=float(ring.extension_at_angle(self.angle_deg)), stop=self.stop,
            view_stop=self.view_stop, widest=setup.lens.widest, blur_mm=setup.blur_mm,
            degrees_per_mm=ring.degrees_per_mm(self.angle_deg),
            window_deg=sharp_window(ring, self.angle_deg, self.stop, setup.blur_mm).width_deg,
            mm_per_degree=setup.mm_per_degree, h_mm=ring.h_mm, diagonal_mm=setup.body.image.diagonal_mm,
        )  # fmt: skip
