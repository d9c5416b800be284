"""Frames of a round as JPEG: what is asked for in the URL, rendered and packed."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

from welotrope.core.errors import UnreadableError
from welotrope.core.units.text import number

if TYPE_CHECKING:
    from welotrope.core.finder.canvas import Picture
    from welotrope.core.finder.finder import FrameRequest
    from welotrope.core.finder.round import Round

QUALITY = 84


def read_look(round: Round, query: Mapping[str, str]) -> FrameRequest:
    """Read what is to be seen; raises WelotropeError for what is not a number or no level of the body."""
    from welotrope.core.finder.finder import FrameRequest

    def value(name: str, label: str, otherwise: float) -> float:
        text = query.get(name, "")
        return number(text[:40], label) if text else otherwise

    step = value("step", "magnification", 1.0)
    round.check_step(step)
    grid = round.grid_deg(step)
    index = value("i", "ring", 0.0)
    angle = min(index * grid, round.ring.throw_deg) if 0 <= index * grid < round.ring.throw_deg + grid else index * grid
    return FrameRequest(
        aid=round.aid, angle_deg=angle, step=step, x=value("x", "area", 0.0), y=value("y", "area", 0.0),
        turned=query.get("turned") == "1", threshold=_threshold(round, query.get("level", "")),
        colour=query.get("colour", "white")[:12], lean_mm=value("lean", "lean", 0.0), seconds=value("t", "time", 0.0),
        mask=query.get("mask") == "1",
    )  # fmt: skip


def jpeg(picture: Picture) -> bytes:
    """Pack a picture as JPEG."""
    import cv2

    _, data = cv2.imencode(".jpg", picture, [cv2.IMWRITE_JPEG_QUALITY, QUALITY])
    return data.tobytes()


def _threshold(round: Round, name: str) -> float | None:
    if not name:
        return None
    levels = dict(round.levels)
    if name not in levels:
        raise UnreadableError("peaking level", name, "there is none of that name", f"Choose from {', '.join(levels)}")
    return levels[name]
