"""Peaking, computed from the picture on the display, by the rule the aids are judged by.

An edge of contrast C spread over a disc of diameter ``b`` has its steepest change of ``4·C/(π·b)`` a pixel. Peaking
lights where ``π/4`` of the change from pixel to pixel exceeds the level's threshold, so that an edge lights just
while ``C/b`` does, with C in light, as a share of white, and b in display pixels. Blurs under two pixels are as steep
as pixels allow.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from welotrope.core.finder.canvas import Colour
from welotrope.core.finder.light import Picture, light_of

_LUMINANCE = np.float32(0.2126), np.float32(0.7152), np.float32(0.0722)  # of red, green and blue, IEC 61966-2-1
COLOURS: dict[str, Colour] = {
    "white": (255, 255, 255), "red": (60, 50, 255), "yellow": (40, 230, 255), "blue": (255, 140, 50),
}  # fmt: skip


def lit(picture: Picture, threshold_per_px: float, display_per_px: float) -> NDArray[np.bool_]:
    """Return where peaking lights, shape (height, width).

    Parameters
    ----------
    picture
        BGR, 8 bit.
    threshold_per_px
        The level's threshold, contrast per display pixel.
    display_per_px
        Display pixels for one pixel of the picture.
    """
    blue, green, red = light_of(picture)
    grey = _LUMINANCE[0] * red + _LUMINANCE[1] * green + _LUMINANCE[2] * blue
    right, down = np.zeros_like(grey), np.zeros_like(grey)
    right[:, :-1] = grey[:, 1:] - grey[:, :-1]
    down[:-1] = grey[1:] - grey[:-1]
    limit = threshold_per_px * display_per_px / (math.pi / 4)
    found: NDArray[np.bool_] = right**2 + down**2 > np.float32(limit**2)
    return found


def mark(picture: Picture, where: NDArray[np.bool_], colour: str) -> None:
    """Colour the lit edges of a picture.

    Parameters
    ----------
    picture
        Picture on the display, BGR, 8 bit, shape (height, width, 3); changed in place.
    where
        Which pixels are lit, shape (height, width).
    colour
        Colour of the lit edges, by name.
    """
    picture[where] = COLOURS.get(colour, COLOURS["white"])
