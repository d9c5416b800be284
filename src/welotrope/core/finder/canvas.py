"""Drawing a layer of a scene at any enlargement: shapes in picture units onto colour and cover.

A picture unit is a thirty-sixth of the frame's width; x runs right and y down from the middle of the frame.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from welotrope.core.finder.light import Picture, times_cover

Points = Sequence[tuple[float, float]]
Colour = tuple[int, int, int]
FRAME_UNITS = (36.0, 24.0)
_SHIFT = 4  # bits of a fraction of a pixel that OpenCV draws to
_FINER = 3  # edges are drawn so much finer and averaged, since OpenCV's own smoothing spreads them over two pixels


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
    """A layer's raster; transparent until drawn on."""

    def __init__(self, view: View) -> None:
        self.view = view
        self._fine: Picture = np.zeros((view.height_px * _FINER, view.width_px * _FINER, 4), np.uint8)
        self._shown: tuple[Picture, int, int] | None = None
        self._drawn = (view.width_px, view.height_px, 0, 0)  # left, top, right, bottom of what was drawn on, pixels

    def cut(self) -> tuple[Picture, int, int]:
        """Return what was drawn, cut to it, and the column and row of its corner.

        In four bytes, shape (height, width, 4): the light of BGR times cover, coded as pictures are, and cover; empty
        when nothing was drawn.
        """
        if self._shown is not None:
            return self._shown
        left, top, right, bottom = self._drawn
        if right <= left or bottom <= top:
            return np.zeros((0, 0, 4), np.uint8), 0, 0
        fine = self._fine[top * _FINER : bottom * _FINER, left * _FINER : right * _FINER]
        size = right - left, bottom - top
        pixels = np.asarray(cv2.resize(fine, size, interpolation=cv2.INTER_AREA), np.uint8)
        return self._covering(pixels), left, top

    def _covering(self, pixels: Picture) -> Picture:
        """Return coded values times cover as light times cover, coded: they differ where cover is partial."""
        partial = (pixels[:, :, 3] > 0) & (pixels[:, :, 3] < 255)
        values = pixels[partial].astype(np.float32)
        cover = values[:, 3] / np.float32(255)
        pixels[partial, :3] = times_cover(np.minimum(values[:, :3] / cover[:, None], np.float32(255)), cover)
        return pixels

    def show(self, pixels: Picture, x: int, y: int) -> None:
        """Show pixels as :meth:`cut` returns them, in place of anything drawn."""
        self._shown = pixels, x, y

    def take(self, other: Canvas, left: float, right: float) -> None:
        """Take what another canvas of the same view shows between two places across, picture units."""
        first, last = (round(self.view.place(x, 0)[0] + 0.5) for x in (left, right))
        first, last = max(first, other._drawn[0]), min(last, other._drawn[2])
        if first < last:
            self._fine[:, first * _FINER : last * _FINER] = other._fine[:, first * _FINER : last * _FINER]
            self._touch(first, other._drawn[1], last, other._drawn[3])

    @contextmanager
    def moved(self, right: float, down: float) -> Iterator[None]:
        """Draw everything within the block so many picture units farther right and down."""
        view = self.view
        self.view = replace(view, centre_x=view.centre_x - right, centre_y=view.centre_y - down)
        try:
            yield
        finally:
            self.view = view

    def fill(self, colour: Colour) -> None:
        """Cover everything."""
        self._fine[:] = (*colour, 255)
        self._touch(0, 0, self.view.width_px, self.view.height_px)

    def polygon(self, points: Points, colour: Colour) -> None:
        """Fill a polygon."""
        cv2.fillPoly(self._fine, [self._fixed(points, 1)], (*colour, 255), cv2.LINE_8, _SHIFT)

    def box(self, x: float, y: float, width: float, height: float, colour: Colour) -> None:
        """Fill an upright rectangle from its top left corner, picture units."""
        self.polygon([(x, y), (x + width, y), (x + width, y + height), (x, y + height)], colour)

    def ellipse(self, x: float, y: float, rx: float, ry: float, colour: Colour) -> None:
        """Fill an ellipse about its middle, picture units."""
        turn = np.linspace(0, 2 * np.pi, 49)[:-1]
        self.polygon([(x + rx * float(np.cos(a)), y + ry * float(np.sin(a))) for a in turn], colour)

    def line(self, points: Points, width: float, colour: Colour) -> None:
        """Draw a line of a width in picture units."""
        thickness = max(1, round(width / self.view.units_per_px * _FINER))
        cv2.polylines(
            self._fine,
            [self._fixed(points, thickness / _FINER / 2 + 1)],
            False,
            (*colour, 255),
            thickness,
            cv2.LINE_8,
            _SHIFT,
        )

    def text(self, words: str, x: float, y: float, height: float, colour: Colour, *, slant: float = 0.0) -> None:
        """Letter words along a baseline from x, y in strokes, picture units; ``slant`` narrows them to the right."""
        for stroke in _strokes(words):
            points = [(x + px * height * (1 - slant * px * 0.02), y + py * height) for px, py in stroke]
            self.line(points, height * 0.16, colour)

    def _touch(self, left: float, top: float, right: float, bottom: float) -> None:
        drawn, view = self._drawn, self.view
        self._drawn = (
            max(min(drawn[0], int(left)), 0), max(min(drawn[1], int(top)), 0),
            min(max(drawn[2], math.ceil(right)), view.width_px), min(max(drawn[3], math.ceil(bottom)), view.height_px),
        )  # fmt: skip

    def _fixed(self, points: Points, margin: float) -> NDArray[np.int32]:
        """Return points as OpenCV takes them, and note what will be drawn on: they and a margin in pixels."""
        places = np.array([self.view.place(x, y) for x, y in points])
        self._touch(*(places.min(axis=0) - margin), *(places.max(axis=0) + margin + 1))
        placed = (places + 0.5) * _FINER - 0.5
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
