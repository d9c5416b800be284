"""Painted layers laid under one another, the nearest first: each blurred, a band of the picture at a time.

A layer goes on behind what stands before it, so that the edges of both are the same ones: of the farther as much shows
as it covers more than all that is nearer. Were they taken for edges of two things, a blurred edge would be too wide.

In bands the light of a layer stays close to the processor, and what a layer leaves empty costs nothing. Wide discs are
spread on a smaller copy of the layer, which is made once and kept with it.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property

import cv2
import numpy as np
from numpy.typing import NDArray

from welotrope.core.finder.blur import parted, spread
from welotrope.core.finder.canvas import View
from welotrope.core.finder.light import Light, Picture, coded, light_of

BAND_PX = 200
_SLIGHT_COVER = 1e-4  # what covers less than this is nothing


@dataclass(frozen=True, eq=False)
class Raster:
    """A layer painted for a view, cut to what is covered, and where its corner lies, pixels.

    Light times cover and cover, coded in 8 bits: as :func:`light.coded` gives it.
    """

    pixels: Picture
    x: int
    y: int
    _smaller: dict[int, Raster] = field(default_factory=dict, repr=False)

    @cached_property
    def columns(self) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
        """The first column of each row that is covered, and the one after the last; the width and 0 where none is."""
        cover = self.pixels[:, :, 3] > 0
        width, some = cover.shape[1], cover.any(axis=1)
        first = np.where(some, cover.argmax(axis=1), width)
        return first, np.where(some, width - cover[:, ::-1].argmax(axis=1), 0)

    def smaller(self, times: int, view: View, *, backdrop: bool) -> Raster:
        """Return it as many times smaller, its pixels those of a view that is; itself for once."""
        if times == 1:
            return self
        if times not in self._smaller:
            self._smaller[times] = _shrunk(self, times, view, backdrop=backdrop)
        return self._smaller[times]


def _shrunk(raster: Raster, times: int, view: View, *, backdrop: bool) -> Raster:
    """Return the mean light of squares of pixels that lie as those of the view."""
    height, width = raster.pixels.shape[:2]
    left, top = raster.x // times, raster.y // times
    right, bottom = -(-(raster.x + width) // times), -(-(raster.y + height) // times)
    above, beside = raster.y - top * times, raster.x - left * times
    below, after = bottom * times - raster.y - height, right * times - raster.x - width
    # Where the frame cuts it, it goes on as its edge does; elsewhere it ends.
    on_below = below if backdrop or raster.y + height >= view.height_px else 0
    on_after = after if backdrop or raster.x + width >= view.width_px else 0
    whole = cv2.copyMakeBorder(raster.pixels, 0, on_below, 0, on_after, cv2.BORDER_REPLICATE)
    whole = cv2.copyMakeBorder(whole, above, below - on_below, beside, after - on_after, cv2.BORDER_CONSTANT, value=0)
    pixels: Picture = np.zeros((bottom - top, right - left, 4), np.uint8)
    rows = max(BAND_PX // times, 1)
    for first in range(0, bottom - top, rows):  # light takes four times the room
        strip = light_of(np.asarray(whole[first * times : (first + rows) * times], np.uint8))
        size = (right - left, strip.shape[1] // times)
        small = np.stack([cv2.resize(plane, size, interpolation=cv2.INTER_AREA) for plane in strip])
        pixels[first : first + rows] = coded(np.asarray(small, np.float32))
    return Raster(pixels, left, top)


class Composite:
    """Part of a picture as it fills from the front: its light, and how much of each pixel is covered.

    Parameters
    ----------
    height_px, width_px
        Its size, pixels.
    """

    def __init__(self, height_px: int, width_px: int) -> None:
        self.light: Light = np.zeros((3, height_px, width_px), np.float32)
        self.covered: Light = np.zeros((height_px, width_px), np.float32)
        self._is_full = False

    def under(self, soft: Light, x: int, y: int) -> None:
        """Lay light times cover, and cover, under what is there; its corner at column x and row y, pixels."""
        where = np.s_[y : y + soft.shape[1], x : x + soft.shape[2]]
        covered = self.covered[where]
        if self._is_full or not covered.size or not soft.size:
            return
        soft = soft[:, : covered.shape[0], : covered.shape[1]]
        hidden = cv2.divide(covered, np.maximum(soft[3], _SLIGHT_COVER))
        self._add(soft, 1 - np.minimum(hidden, 1), where)
        np.maximum(covered, soft[3], out=covered)

    def fill(self, light: Light) -> None:
        """Put light, shape (3, height, width), behind all that is there: all is covered then."""
        if not self._is_full:
            self.shine(light)
            self.covered[:], self._is_full = 1, True

    def shine(self, light: Light) -> None:
        """Add light, shape (3, height, width), that comes from behind all that is there and covers nothing."""
        self._add(light, 1 - self.covered, np.s_[:, :])

    def _add(self, light: Light, share: Light, where: tuple[slice, slice]) -> None:
        for plane, added in zip(self.light, light[:3], strict=True):
            cv2.accumulateProduct(added, share, plane[where])


@dataclass(frozen=True)
class Laying:
    """A layer as it is laid under what is before it.

    Parameters
    ----------
    raster
        What was painted, where it is to lie.
    diameter_px
        Diameter of the disc that its points are spread over, pixels.
    backdrop
        Whether it covers the frame and goes on beyond it.
    roughly
        Whether it may be blurred roughly, as what is not focused on.
    """

    raster: Raster
    diameter_px: float
    backdrop: bool
    roughly: bool

    def under(self, composite: Composite, top: int, view: View) -> None:
        """Lay it under what there is of a band of the picture that begins at a row."""
        light, x, y = self.band(top, top + composite.covered.shape[0], view)
        if light.size and self.backdrop:
            composite.fill(light)
        elif light.size:
            composite.under(light, x, y - top)

    def band(self, top: int, bottom: int, view: View) -> tuple[Light, int, int]:
        """Return the light times cover, and cover, of some rows of the view, and the corner of what there is of it.

        A backdrop covers all, so that its cover is left out.
        """
        times, rest = parted(self.diameter_px, roughly=self.roughly)
        small = self.raster.smaller(times, view, backdrop=self.backdrop)
        beyond = int(times > 1)  # what the pixels between are made of
        first, end = top // times - beyond, -(-bottom // times) + beyond
        reach = math.ceil(rest / 2) + 2
        piece = _piece(small, first - reach, end + reach, whole=self.backdrop)
        if piece is None:
            return np.zeros((4, 0, 0), np.float32), 0, top
        shown = -(-view.width_px // times), -(-view.height_px // times)
        light, x, y = (light_of(piece[0][:, :, :3]), *piece[1:]) if self.backdrop else _roomy(*piece, reach, shown)
        soft = spread(light, rest)
        cut = max(first - y, 0)
        soft, y = soft[:, cut : max(end - y, 0)], y + cut
        if times > 1:
            soft, x, y = _larger(soft, times), x * times, y * times
        cut = max(top - y, 0)
        width = max(view.width_px - x, 0)
        return soft[:, cut : max(bottom - y, 0), :width], x, y + cut


def _larger(light: Light, times: int) -> Light:
    count, height, width = light.shape
    out = np.empty((count, height * times, width * times), np.float32)
    for plane, shown in zip(light, out, strict=True):
        if plane.size:
            cv2.resize(plane, (width * times, height * times), dst=shown, interpolation=cv2.INTER_LINEAR)
    return out


def _piece(raster: Raster, first: int, end: int, *, whole: bool) -> tuple[Picture, int, int] | None:
    """Return the rows of a raster between two of its view's, cut to what is covered; None where nothing is."""
    from_row, to_row = max(first - raster.y, 0), max(end - raster.y, 0)
    rows = raster.pixels[from_row:to_row]
    if not rows.size:
        return None
    if whole:
        return rows, raster.x, raster.y + from_row
    left, right = _between(raster, from_row, to_row)
    if right <= left:
        return None
    return rows[:, left:right], raster.x + left, raster.y + from_row


def _between(raster: Raster, from_row: int, to_row: int) -> tuple[int, int]:
    first, end = raster.columns
    return int(first[from_row:to_row].min()), int(end[from_row:to_row].max())


def laid_together(rasters: Sequence[Raster]) -> Raster:
    """Lay rasters over one another, the first farthest back.

    Parameters
    ----------
    rasters
        One at least, of one view.
    """
    there = [one for one in rasters if one.pixels.size]
    if len(there) < 2:
        return (there or rasters)[0]
    left, top = min(one.x for one in there), min(one.y for one in there)
    right = max(one.x + one.pixels.shape[1] for one in there)
    bottom = max(one.y + one.pixels.shape[0] for one in there)
    pixels: Picture = np.zeros((bottom - top, right - left, 4), np.uint8)
    for first in range(top, bottom, BAND_PX):
        composite = Composite(min(BAND_PX, bottom - first), right - left)
        for one in reversed(there):
            rows = one.pixels[max(first - one.y, 0) : max(first + BAND_PX - one.y, 0)]
            if rows.size:
                composite.under(light_of(rows), one.x - left, max(one.y - first, 0))
        pixels[first - top : first - top + BAND_PX] = coded(np.stack([*composite.light, composite.covered]))
    return Raster(pixels, left, top)


def _roomy(pixels: Picture, x: int, y: int, margin: int, size: tuple[int, int]) -> tuple[Light, int, int]:
    """Return the light of a cut raster with room to spread into; where the frame cuts it, it goes on as its edge does.

    ``size`` is the frame's, pixels across and down.
    """
    height, width = pixels.shape[:2]
    left, above = max(min(margin, x), 0), max(min(margin, y), 0)
    right, below = (max(min(margin, end - at), 0) for end, at in zip(size, (x + width, y + height), strict=True))
    light = np.zeros((4, height + above + below, width + left + right), np.float32)
    light_of(pixels, into=light[:, above : above + height, left : left + width])
    return light, x - left, y - above


def moved_backdrop(raster: Raster, by_px: tuple[float, float]) -> Raster:
    """Move what covers the frame; it goes on as its edge does.

    Parameters
    ----------
    raster
        What covers the frame.
    by_px
        How far right and down, pixels.
    """
    matrix = np.array([[1, 0, by_px[0]], [0, 1, by_px[1]]], np.float64)
    size = raster.pixels.shape[1], raster.pixels.shape[0]
    pixels = cv2.warpAffine(raster.pixels, matrix, size, flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return Raster(np.asarray(pixels, np.uint8), raster.x, raster.y)


def placed(raster: Raster, view: View, scale: float, moved_px: tuple[float, float]) -> Raster:
    """Enlarge a raster about the middle of the picture and move it, cut to the frame.

    Parameters
    ----------
    raster
        What was painted for the view.
    view
        Which part of the frame is looked at, and how large.
    scale
        How many times larger, a ratio.
    moved_px
        How far right and down, pixels.
    """
    box = _box(raster.pixels.shape[:2], raster.x, raster.y, view, scale, moved_px)
    if box is None:
        return Raster(np.zeros((0, 0, 4), np.uint8), 0, 0)
    matrix, size, left, top = box
    if scale == 1.0:  # as light: between coded values a thin line would lie up to a third of a pixel off
        moved = [cv2.warpAffine(plane, matrix, size, flags=cv2.INTER_LINEAR) for plane in light_of(raster.pixels)]
        return Raster(coded(np.stack(moved)), left, top)
    return Raster(np.asarray(cv2.warpAffine(raster.pixels, matrix, size, flags=cv2.INTER_LINEAR), np.uint8), left, top)


def moved_planes(light: Light, x: int, y: int, view: View, by_px: tuple[float, float]) -> tuple[Light, int, int]:
    """Move light times cover, cut to the frame; returns it with the column and row of its corner.

    What the frame cuts goes on as its edge does.

    Parameters
    ----------
    light
        Planes, shape (any number, height, width).
    x, y
        Where its corner lay, pixels.
    view
        Which part of the frame is looked at, and how large.
    by_px
        How far right and down, pixels.
    """
    box = _box(light.shape[1:], x, y, view, 1.0, by_px)
    if box is None:
        return np.zeros((len(light), 0, 0), np.float32), 0, 0
    matrix, size, left, top = box
    return slid(light, (float(matrix[0, 2]), float(matrix[1, 2])), size), left, top


def slid(light: Light, by_px: tuple[float, float], size: tuple[int, int]) -> Light:
    """Return a window of planes moved by parts of a pixel; beyond their edges they go on as those do.

    Parameters
    ----------
    light
        Planes, shape (any number, height, width).
    by_px
        How far right and down, pixels.
    size
        Of the window, pixels across and down.
    """
    middle = (size[0] - 1) / 2 - by_px[0], (size[1] - 1) / 2 - by_px[1]
    return np.stack([cv2.getRectSubPix(np.ascontiguousarray(plane), size, middle) for plane in light])


def _box(
    shape: tuple[int, ...], x: int, y: int, view: View, scale: float, moved_px: tuple[float, float]
) -> tuple[NDArray[np.float64], tuple[int, int], int, int] | None:
    """Return how pixels are enlarged about the middle and moved, and what of the frame they then fill, if anything."""
    cx, cy = view.place(0, 0)
    right, down = cx + (x - cx) * scale + moved_px[0], cy + (y - cy) * scale + moved_px[1]
    left, top = max(math.floor(right), 0), max(math.floor(down), 0)
    end_x = min(math.ceil(right + shape[1] * scale) + 1, view.width_px)
    end_y = min(math.ceil(down + shape[0] * scale) + 1, view.height_px)
    if end_x <= left or end_y <= top:
        return None
    matrix = np.array([[scale, 0, right - left], [0, scale, down - top]], np.float64)
    return matrix, (end_x - left, end_y - top), left, top
