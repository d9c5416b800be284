"""Scenes as a ray tracer rendered them: colours, and how near each pixel is.

A rendered scene holds no distances in mm but *nearness*: the distance of the target over that of what is seen, 1 at the
target and 0 for the sky.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from welotrope.core.finder.light import Picture, coded
from welotrope.core.finder.scene import PointLight
from welotrope.core.optics.elementwise import AnyArray

Nearness = NDArray[np.float32]
Mask = NDArray[np.uint8]
# Middles of the layers as differences of nearness from the target: fine about it, coarse where all is blurred anyway.
_STEPS = (0.008, 0.022, 0.048, 0.095, 0.18, 0.33, 0.6, 1.1)
_AS_PAPER = int(coded(np.ones((3, 1, 1), np.float32)).max())  # what lit paper is coded as
_ROOM_PX = 8  # beyond what is cut out: there it ends
_BEHIND = 0.99  # of the nearness of the farthest of what is cut out
_LEAST_SHARE = 0.0005  # of all that is seen, to have a layer


@dataclass(frozen=True, eq=False, kw_only=True)
class Plate:
    """A rendered picture, or part of one.

    Parameters
    ----------
    colour
        BGR, 8 bit, shape (height, width, 3).
    coded
        Distance of the target over that of each pixel, shape (height, width); 0 for the sky. With ``meanings``, 8 bit
        codes of it.
    left, top
        Its corner, picture units from the middle of the frame.
    unit_px
        Its pixels to a picture unit.
    meanings
        The nearness that each of 256 codes stands for: a quarter of the memory.
    shared
        Pixels that two surfaces share, counted row by row, and how much of each the nearer one covers whose colour and
        nearness it has, 255 for all; None where there are none. A fiftieth of all, so all are not kept.
    """

    colour: Picture
    coded: Nearness | Mask
    left: float
    top: float
    unit_px: float
    meanings: Nearness | None = None
    shared: tuple[NDArray[np.int32], Mask] | None = None

    def cover(self) -> Mask:
        """Return how much of each pixel the surface covers whose colour it has, 255 for all, shape (height, width)."""
        found = np.full(self.coded.shape, 255, np.uint8)
        if self.shared is not None:
            found.ravel()[self.shared[0]] = self.shared[1]
        return found

    def nearness(self, coded: AnyArray) -> Nearness:
        """Return what codes of it stand for."""
        return np.asarray(coded if self.meanings is None else self.meanings[_mask(coded)], np.float32)


@dataclass(frozen=True, eq=False, kw_only=True)
class Rendering:
    """A scene as it was rendered.

    Parameters
    ----------
    name
        Its key in the list of scenes.
    plates
        The whole frame, then finer ones of parts of it.
    target_name, target_x, target_y
        What to focus on, and where it is, picture units.
    brightness
        1 for daylight.
    focal_lengths
        How far off the target may be laid, in focal lengths: the least and the most.
    lights
        Small lights, with the nearness of each.
    layers
        The nearness of each layer it is cut into, farthest first; none to find them.
    is_cut_out
        Whether there is nothing of it where its nearness is 0, and not the sky.
    moving
        What of it comes at the camera, cut out of the rest; None where all stays.
    comes_in_s
        How long that takes to the camera, seconds: the least and the most.
    """

    name: str
    plates: tuple[Plate, ...]
    target_name: str
    target_x: float
    target_y: float
    brightness: float
    focal_lengths: tuple[float, float]
    lights: tuple[tuple[float, PointLight], ...] = ()
    layers: tuple[float, ...] = ()
    is_cut_out: bool = False
    moving: Rendering | None = None
    comes_in_s: tuple[float, float] = (0.0, 0.0)


def without_lamps(colour: Picture, at: Iterable[tuple[int, int]]) -> Picture:
    """Return a rendered picture with lamps as bright as lit paper: they shine as lights of their own, and only once.

    Parameters
    ----------
    colour
        Coded values, BGR, shape (height, width, 3).
    at
        Column and row of each lamp, pixels; those beyond the picture do not matter.
    """
    height, width = colour.shape[:2]
    count, labels = cv2.connectedComponents((colour.max(axis=2) > _AS_PAPER).astype(np.uint8))
    lamps = {int(labels[row, column]) for column, row in at if 0 <= row < height and 0 <= column < width}
    is_lamp = np.zeros(count, bool)
    is_lamp[list(lamps)] = True
    found, where = colour.copy(), is_lamp[labels]
    found[where] = np.minimum(found[where], _AS_PAPER)
    return found


def shared_of(cover: Mask) -> tuple[NDArray[np.int32], Mask]:
    """Return where a cover is not 255, counted row by row, and what it is there.

    Parameters
    ----------
    cover
        Shares of pixels, of 255, shape (height, width).
    """
    at = np.flatnonzero(cover < 255).astype(np.int32)
    return at, cover.ravel()[at]


def cropped(plate: Plate) -> Plate:
    """Return the part of a plate of what is cut out that holds any of it, and a little room about it.

    Parameters
    ----------
    plate
        One without shared pixels.
    """
    there = plate.nearness(plate.coded) > 0
    rows, columns = (np.flatnonzero(there.any(axis=axis)) for axis in (1, 0))
    top, left = (max(int(found[0]) - _ROOM_PX, 0) for found in (rows, columns))
    part = np.s_[top : int(rows[-1]) + _ROOM_PX + 1, left : int(columns[-1]) + _ROOM_PX + 1]
    return replace(
        plate, colour=plate.colour[part].copy(), coded=plate.coded[part].copy(), left=plate.left + left / plate.unit_px,
        top=plate.top + top / plate.unit_px,
    )  # fmt: skip


def settled(plate: Plate, free: AnyArray, layers: Sequence[float]) -> Plate:
    """Return a plate with what stands free between two layers as near as the one that it is nearer to.

    A slant lies in two layers, which go on behind one another; about its blurred edges both together cover more than it
    does. What stands free is spared that.

    Parameters
    ----------
    plate
        One with ``meanings``.
    free
        Where what stands free is, shape (height, width).
    layers
        The nearness of each layer, farthest first, a ratio of distances.
    """
    if plate.meanings is None:
        raise ValueError("A plate is settled by its codes")
    meanings, places = plate.meanings.copy(), np.array(layers)
    codes = np.abs(meanings - places[:, None]).argmin(axis=1)
    meanings[codes] = places
    moved = codes[np.abs(meanings[:, None] - places).argmin(axis=1)].astype(np.uint8)
    coded = np.where(free, cv2.LUT(_mask(plate.coded), moved), plate.coded)
    return replace(plate, coded=_mask(coded), meanings=meanings)


def layers_of(plates: Sequence[Plate], *, cut_out: bool = False) -> list[float]:
    """Return the nearness of each layer, farthest first: the mean of what is about as near, where there is anything.

    It is a ratio: the distance of the target over theirs. What is cut out begins with a layer that holds nothing, just
    behind the farthest of it: so that is covered wholly by the next one.

    Parameters
    ----------
    plates
        Of one rendering.
    cut_out
        Whether there is nothing where the nearness is 0.
    """
    seen = np.concatenate([plate.nearness(plate.coded[::4, ::4]).ravel() for plate in plates])
    if cut_out:
        seen = seen[seen > 0]
        least = float(seen.min())
        return [_BEHIND * least, least, *(one for one in _parted(seen) if one > least * (2 - _BEHIND))]
    return _parted(seen)


def _parted(seen: Nearness) -> list[float]:
    steps = np.array(_STEPS)
    between = np.concatenate(([steps[0] / 2], (steps[:-1] + steps[1:]) / 2, [np.inf]))
    found = [1.0]
    for side in (-1.0, 1.0):
        away = side * (seen - 1)
        for low, high in itertools.pairwise(between):
            here = seen[(away > low) & (away <= high)]
            if len(here) > _LEAST_SHARE * len(seen):
                found.append(float(here.mean()))
    return sorted(found)


def _mask(values: object) -> Mask:
    return np.asarray(values, np.uint8)
