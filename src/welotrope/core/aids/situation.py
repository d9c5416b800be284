"""A set-up at a setting, and what there is to focus on."""

from __future__ import annotations

from dataclasses import dataclass, field

from welotrope.core.kit.aids.viewing_optics import Target, ViewingOptics
from welotrope.core.kit.setup import Setup
from welotrope.core.kit.viewing import sight_of


@dataclass(frozen=True)
class Situation:
    """A set-up at a taking stop, a viewing stop and a ring angle (degrees), and the target."""

    setup: Setup
    stop: float
    view_stop: float
    angle_deg: float
    target: Target = field(default_factory=Target)

    @property
    def sight(self) -> ViewingOptics:
        """The optics of this situation."""
        return sight_of(self.setup, self.angle_deg, self.stop, self.view_stop)
