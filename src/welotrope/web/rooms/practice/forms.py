"""What round is wanted, and how it was ended, as sent."""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

from welotrope.core.errors import UnreadableError
from welotrope.core.kit.setup import Setup
from welotrope.core.units.numbers import number
from welotrope.core.units.stops import parse_stop
from welotrope.web.forms import TextForm

if TYPE_CHECKING:
    from welotrope.core.finder.round import Order, Release

MAX_PATH_TEXT = 60_000


class RoundForm(TextForm):
    """The choices of a round."""

    exercise: str = "single"
    aid: str = ""
    scene: str = ""
    stop: str = ""

    def order(self, setup: Setup) -> Order:
        """Return the order; the usual stop is the widest, the usual aid the finest the exercise takes."""
        from welotrope.core.finder.round import Order

        stop = parse_stop(self.stop) if self.stop else setup.lens.widest
        return Order(self.exercise, self.aid, self.scene, stop)


def read_release(data: Mapping[str, Any]) -> Release:
    """Read a release; raises WelotropeError for what is no number or no path."""
    from welotrope.core.finder.round import Release

    def value(name: str, label: str) -> float:
        return number(str(data.get(name, "0"))[:40], label)

    text = str(data.get("path", "[]"))
    if len(text) > MAX_PATH_TEXT:
        raise UnreadableError("path", f"{len(text)} characters", "that is too long", "Send fewer points")
    try:
        path = tuple((float(seconds), float(place)) for seconds, place in json.loads(text))
    except (ValueError, TypeError, RecursionError):
        raise UnreadableError("path", text[:40], "that is no list of pairs", "Send seconds and degrees") from None
    step = value("step", "magnification") if "step" in data else 1.0
    return Release(
        angle_deg=value("angle", "ring"), lean_mm=value("lean", "lean"), seconds=value("seconds", "time"), path=path,
        step=step, level=str(data.get("level", ""))[:40],
    )  # fmt: skip
