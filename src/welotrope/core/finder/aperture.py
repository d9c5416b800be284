"""The aperture as off-axis light meets it: its shape, what the rims leave of it, and the lights that show it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray

from welotrope.core.finder.blur import NO_BLUR_PX, disc
from welotrope.core.finder.canvas import View
from welotrope.core.finder.light import Light, Picture, colour_of_light
from welotrope.core.finder.scene import PointLight

# Off the axis the rims of a fast lens cut its aperture: at the corner they stand off by this much of it.
_RIM, _CORNER_UNITS = 0.45, math.hypot(18, 12)
_SPREAD_MIN_PX = 0.9


def aperture_outline(blades: int, *, turn: float = 0.3) -> list[tuple[float, float]]:
    """Return the corners of an aperture of ``blades`` with the area of a disc; round without blades.

    ``turn`` in radians; places as a fraction of that disc's diameter, from its middle.

    Parameters
    ----------
    blades
        How many blades the aperture has; 0 for a round one.
    turn
        Turn of the aperture in radians.
    """
    if blades < 3:
        angles = np.linspace(0, 2 * np.pi, 33)[:-1]
        return [(float(np.cos(a)) / 2, float(np.sin(a)) / 2) for a in angles]
    corner = math.sqrt(math.pi / 4 / (blades / 2 * math.sin(2 * math.pi / blades)))
    angles = turn + np.arange(blades) * 2 * np.pi / blades
    return [(float(np.cos(a)) * corner, float(np.sin(a)) * corner) for a in angles]


def cut_outline(outline: list[tuple[float, float]], right: float, down: float) -> list[tuple[float, float]]:
    """Return the outline of an aperture as seen aslant: what of it the lens's rims do not cover.

    The rim is a circle as wide as the aperture that stands off by ``right`` and ``down``, as fractions of the diameter
    of the aperture; places are as :func:`aperture_outline` gives them.

    Parameters
    ----------
    outline
        Corners of the aperture, as fractions of its diameter.
    right
        Offset of the rim to the right, as a fraction of the aperture's diameter.
    down
        Offset of the rim downwards, as a fraction of the aperture's diameter.
    """
    found = []
    for x, y in outline:
        off_x, off_y = x - right, y - down
        if off_x**2 + off_y**2 > 0.25:
            # Drawn in towards the middle of what both hold, until the rim is met.
            mid_x, mid_y = right / 2, down / 2
            way_x, way_y = x - mid_x, y - mid_y
            a, b = way_x**2 + way_y**2, way_x * (mid_x - right) + way_y * (mid_y - down)
            c = (mid_x - right) ** 2 + (mid_y - down) ** 2 - 0.25
            share = (math.sqrt(max(b * b - a * c, 0.0)) - b) / a
            x, y = mid_x + share * way_x, mid_y + share * way_y
        found.append((x, y))
    return found


@lru_cache(maxsize=3)
def falloff(view: View, axis: tuple[float, float], focal_units: float, opened: float) -> Light:
    """Return how much of the light on the axis falls elsewhere in a view, a share, shape (height, width).

    It falls as the fourth power of the cosine of the angle to the axis, and by the share of the aperture that the
    lens's rims leave.

    Parameters
    ----------
    view
        Which part of the frame is looked at, and how large.
    axis
        Where the axis meets the picture, picture units.
    focal_units
        Focal length in picture units.
    opened
        Diameter of the aperture over that of the rims, 0 to 1.
    """
    columns = (np.arange(view.width_px) - view.place(axis[0], 0)[0]) * view.units_per_px
    rows = (np.arange(view.height_px) - view.place(0, axis[1])[1]) * view.units_per_px
    squares = rows[:, None] ** 2 + columns[None, :] ** 2
    apart = _RIM * np.sqrt(squares) / _CORNER_UNITS
    return np.asarray(_left_by_rims(apart, opened) / (1 + squares / focal_units**2) ** 2, np.float32)


def _left_by_rims(apart: NDArray[np.float64], opened: float) -> NDArray[np.float64]:
    """Return the share of an aperture of diameter ``opened`` within two rims of diameter 1 that stand so far apart.

    Front and rear rim stand off to either side of it, so that a small aperture is clear where a wide one is cut.
    """
    steps = np.linspace(0, 1, 65)
    half, turn = steps[:, None] / 2, (np.arange(90) + 0.5) / 90 * math.pi / 2
    reach = np.sqrt(np.maximum(0.25 - (half * np.sin(turn)) ** 2, 0)) - half * np.cos(turn)
    radius = max(opened, 0.01) / 2
    share = (np.clip(reach, 0, radius) ** 2).mean(axis=1) / radius**2
    return np.asarray(np.interp(apart, steps, share), np.float64)


def shine(
    out: Light, view: View, light: PointLight, *, diameter_px: float, scale: float, axis: tuple[float, float],
    blades: int, opened: float | None, top: int = 0,
) -> None:  # fmt: skip
    """Add a small light, spread over the shape of the aperture; wide open the lens's rims cut it off the axis.

    Parameters
    ----------
    out
        Light it is added to: rows of the view from one on, shape (3, rows, width).
    view
        Which part of the frame is looked at, and how large.
    light
        The light.
    diameter_px
        Diameter of the disc that a point becomes, pixels.
    scale
        How much larger its layer is than at the focus it was laid out for, a ratio.
    axis
        Where the axis meets the picture, picture units.
    blades
        Blades of the aperture; 0 for a round one.
    opened
        Diameter of the aperture over that of the rims, 0 to 1; None for a lens without.
    top
        Which row of the view is the first, pixels.
    """
    spread, across = max(diameter_px, _SPREAD_MIN_PX), light.across * scale / view.units_per_px
    wide, narrow = max(spread, across), min(spread, across)
    x, y = view.place(light.x * scale, light.y * scale)
    y -= top
    if abs(y - out.shape[1] / 2) > out.shape[1] / 2 + (wide + narrow) / 2 + 3:
        return
    outline = aperture_outline(blades if spread > across else 0)
    if spread > across and blades == 0 and opened is not None:
        right, down = (_RIM * (at - on) / _CORNER_UNITS for at, on in zip((light.x, light.y), axis, strict=True))
        outline = cut_outline(outline, -right, -down)
    # Strength is for the whole-frame view: nearer looked at, the same light covers more pixels.
    strength = light.strength * (36.0 / 900 / view.units_per_px) ** 2
    level = strength / (math.pi / 4 * wide**2)
    reach = math.ceil((wide + narrow) / 2 + 2)
    x0, y0 = math.floor(x) - reach, math.floor(y) - reach
    side = 2 * reach + 1
    if x0 + side <= 0 or y0 + side <= 0 or x0 >= view.width_px or y0 >= out.shape[1] or side > 1200:
        return
    inside = _filled([(u * wide + x - x0 + 0.5, v * wide + y - y0 + 0.5) for u, v in outline], side)
    if narrow > NO_BLUR_PX:
        inside = np.asarray(cv2.filter2D(inside, -1, disc(round(narrow, 1)), borderType=cv2.BORDER_CONSTANT))
    left, above = max(0, -x0), max(0, -y0)
    under = out[:, max(y0, 0) : y0 + side, max(x0, 0) : x0 + side]
    share = inside[above : above + under.shape[1], left : left + under.shape[2]]
    under += share * (np.float32(level) * colour_of_light(light.colour)[:, None, None])


def _filled(corners: Sequence[tuple[float, float]], side: int) -> Light:
    """Return the share of each pixel of a square that a shape covers."""
    finer = 4 if side < 80 else 2 if side < 300 else 1
    inside: Picture = np.zeros((side * finer, side * finer), np.uint8)
    cv2.fillPoly(inside, [np.rint((np.array(corners) * finer - 0.5) * 16).astype(np.int32)], 255, cv2.LINE_8, 4)
    if finer > 1:
        inside = np.asarray(cv2.resize(inside, (side, side), interpolation=cv2.INTER_AREA), np.uint8)
    share = inside.astype(np.float32)
    # What is filled reaches half a fine pixel beyond its corners: of a small light that would be a twentieth more.
    area = cv2.contourArea(np.array(corners, np.float32))
    return np.asarray(share * np.float32(area / max(float(share.sum()), 1e-9)), np.float32)
