"""A release as the script sends it."""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import TYPE_CHECKING

from welotrope.core.errors import UnreadableError
from welotrope.core.units.text import number

if TYPE_CHECKING:
    from welotrope.core.finder.display import Display
    from welotrope.core.finder.round import Release

MAX_PATH_TEXT = 60_000
MOST_SHOWN_PX = 20_000


def read_release(data: Mapping[str, object], display: Display | None) -> Release:
    """Read a release on a screen, measured or not; raises WelotropeError for what is no number or no path."""
    from welotrope.core.finder.display import Viewing
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
    shown_px = value("shown", "width of the picture")
    step = value("step", "magnification") if "step" in data else 1.0
    return Release(
        angle_deg=value("angle", "ring"), lean_mm=value("lean", "lean"), seconds=value("seconds", "time"), path=path,
        step=step, level=str(data.get("level", ""))[:40],
        viewing=Viewing(display=display, shown_px=shown_px) if display and 1 <= shown_px <= MOST_SHOWN_PX else None,
    )  # fmt: skip
