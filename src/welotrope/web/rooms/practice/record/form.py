"""What round is wanted, and how it was ended, as sent."""

from __future__ import annotations

from typing import TYPE_CHECKING

from welotrope.core.kit.setup import Setup
from welotrope.core.units.stops import parse_stop
from welotrope.web.forms.text_form import TextForm

if TYPE_CHECKING:
    from welotrope.core.finder.round import RoundRequest


class RoundForm(TextForm):
    """The choices of a round."""

    exercise: str = "single"
    aid: str = ""
    scene: str = ""
    stop: str = ""

    def order(self, setup: Setup) -> RoundRequest:
        """Return the order; the usual stop is the widest, the usual aid the finest the exercise takes."""
        from welotrope.core.finder.round import RoundRequest

        stop = parse_stop(self.stop) if self.stop else setup.lens.widest
        return RoundRequest(self.exercise, self.aid, self.scene, stop)
