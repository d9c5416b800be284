"""A set-up: a lens on a body with an idea of what counts as sharp."""

from __future__ import annotations

from dataclasses import dataclass, field

from welotrope.core.kit.adapter import Adapter
from welotrope.core.kit.body import Body
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.mount import Link
from welotrope.core.kit.traits import Finder
from welotrope.core.optics.sharpness import SharpnessStandard


@dataclass(frozen=True)
class Setup:
    """What is in the photographer's hand; every page answers for one of these."""

    body: Body
    lens: Lens
    standard: SharpnessStandard = field(default_factory=SharpnessStandard)
    adapter: Adapter | None = None

    @property
    def blur_mm(self) -> float:
        """Acceptable blur diameter on this body's format, mm."""
        return self.standard.acceptable_blur(self.body.image)

    @property
    def opens_for_focusing(self) -> bool:
        """Whether the lens stays open until the release: a reflex finder, no adapter, aperture worked by the body."""
        mount = self.lens.mount
        worked = mount is not None and mount.actuation in (Link.MECHANICAL, Link.ELECTRONIC)
        return self.body.traits.finder is Finder.SLR and self.adapter is None and worked

    def view_stop(self, stop: float) -> float:
        """Return the stop one focuses through when the lens is set to ``stop``."""
        return self.lens.widest if self.opens_for_focusing else stop

    @property
    def name(self) -> str:
        """Lens on body, in words."""
        return f"{self.lens.name} on {self.body.name}"
