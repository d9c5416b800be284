"""Drawing a layer of a scene at any enlargement: shapes in picture units onto premultiplied colour and cover.

A picture unit is a thirty-sixth of the frame's width; x runs right and y down from the middle of the frame.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

FloatPicture = NDArray[np.float32]
Picture = NDArray[np.uint8]
Points = Sequence[tuple[float, float]]
Colour = tuple[int, int, int]
FRAME_UNITS = (36.0, 24.0)
_SHIFT = 4  # bits of a fraction of a pixel that OpenCV draws to


@dataclass(frozen=True)
class View:
    """A window onto the picture.

    Parameters
    ----------
    width_px, height_px
        Size of the rendered frame.
    units_per_px
        Picture units per pixel.
    centre_x, centre_y
        Middle of the window, picture units.
    """

    width_px: int
    height_px: int
    units_per_px: float
    centre_x: float = 0.0
    centre_y: float = 0.0

    def place(self, x: float, y: float) -> tuple[float, float]:
        """Return the pixel (column, row) of a point in picture units; a pixel's middle is a whole number."""
        return (
            (x - self.centre_x) / self.units_per_px + (self.width_px - 1) / 2,
            (y - self.centre_y) / self.units_per_px + (self.height_px - 1) / 2,
        )


class Canvas:
    """A layer's raster, premultiplied BGR and cover in four bytes; transparent until drawn on."""

    def __init__(self, view: View) -> None:
        self.view = view
        self.pixels: Picture = np.zeros((view.height_px, view.width_px, 4), np.uint8)

    def fill(self, colour: Colour) -> None:
        """Cover everything."""
        self.pixels[:] = (*colour, 255)

    def polygon(self, points: Points, colour: Colour) -> None:
        """Fill a polygon."""
        cv2.fillPoly(self.pixels, [self._fixed(points)], (*colour, 255), cv2.LINE_AA, _SHIFT)

    def box(self, x: float, y: float, width: float, height: float, colour: Colour) -> None:
        """Fill an upright rectangle from its top left corner."""
        self.polygon([(x, y), (x + width, y), (x + width, y + height), (x, y + height)], colour)

    def ellipse(self, x: float, y: float, rx: float, ry: float, colour: Colour) -> None:
        """Fill an ellipse."""
        turn = np.linspace(0, 2 * np.pi, 49)[:-1]
        self.polygon([(x + rx * float(np.cos(a)), y + ry * float(np.sin(a))) for a in turn], colour)

    def line(self, points: Points, width: float, colour: Colour) -> None:
        """Draw a line of a width in picture units, as thin as a pixel at the least."""
        thickness = max(1, round(width / self.view.units_per_px))
        cv2.polylines(self.pixels, [self._fixed(points)], False, (*colour, 255), thickness, cv2.LINE_AA, _SHIFT)

    def text(self, words: str, x: float, y: float, height: float, colour: Colour, slant: float = 0.0) -> None:
        """Letter words along a baseline from x, y in strokes; ``slant`` narrows them towards the right."""
        for stroke in _strokes(words):
            points = [(x + px * height * (1 - slant * px * 0.02), y + py * height) for px, py in stroke]
            self.line(points, height * 0.16, colour)

    def _fixed(self, points: Points) -> NDArray[np.int32]:
        placed = np.array([self.view.place(x, y) for x, y in points])
        fixed: NDArray[np.int32] = np.clip(np.rint(placed * (1 << _SHIFT)), -(2**26), 2**26).astype(np.int32)
        return fixed


# Strokes of the capitals the yard paints, on a grid of 4 by 6, joined by /; drawn by us.
_GLYPHS = {
    "A": "06 20 46/13 33", "B": "00 06 36 45 44 33 03/33 42 41 30 00", "C": "41 30 10 01 05 16 36 45",
    "D": "00 06 26 44 42 20 00", "E": "40 00 06 46/03 33", "F": "40 00 06/03 33", "G": "41 30 10 01 05 16 36 45 43 23",
    "H": "00 06/40 46/03 43", "I": "20 26", "K": "00 06/40 03 46", "L": "00 06 46", "M": "06 00 23 40 46",
    "N": "06 00 46 40", "O": "10 01 05 16 36 45 41 30 10", "P": "06 00 30 41 42 33 03",
    "R": "06 00 30 41 42 33 03/23 46", "S": "41 30 10 01 02 13 33 44 45 36 16 05", "T": "00 40/20 26",
    "U": "00 05 16 36 45 40", "V": "00 26 40",
    "Y": "00 23 40/23 26", "1": "11 20 26", "2": "01 10 30 41 42 06 46", "3": "00 40 23 34 35 26 06",
    "4": "36 30 04 44", "7": "00 40 16", " ": "",
}  # fmt: skip


def _strokes(words: str) -> list[list[tuple[float, float]]]:
    """Return strokes in units of the letter height, baseline at 0 and up negative."""
    strokes = []
    for place, letter in enumerate(words.upper()):
        for stroke in _GLYPHS.get(letter, "").split("/"):
            points = [(place * 0.95 + int(p[0]) / 6, int(p[1]) / 6 - 1) for p in stroke.split()]
            if points:
                strokes.append(points)
    return strokes
