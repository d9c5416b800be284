"""A picture in blocks of 8 pixels, at its own size and halved, with the gradients in each; and blocks by cell."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

FloatGrid = NDArray[np.float64]
BoolGrid = NDArray[np.bool_]
BLOCK = 8  # pixels
HALVINGS = 3
_SOBEL_PX = 0.65
_SOBEL = 8.0  # sum of one side of its weights, twice
# What each halving sees through, px: its pixels are means over 2, 4, 8, and Sobel's operator spans two of them.
SCALES_PX = tuple(math.hypot(_SOBEL_PX * side, math.sqrt((side * side - 1) / 12)) for side in (2, 4, 8))


@dataclass(frozen=True, kw_only=True)
class Gradients:
    """The gradient of each block: means of its products, per pixel of the whole picture; shape (rows, cols)."""

    across: FloatGrid
    down: FloatGrid
    both: FloatGrid

    @property
    def energy(self) -> FloatGrid:
        """The mean squared gradient, in squared grey levels per squared pixel."""
        return self.across + self.down


def levels_of(picture: NDArray[Any]) -> list[NDArray[Any]]:
    """Return the picture and copies of half, a quarter and an eighth of its size, each the mean of the one before.

    It is filled up to whole blocks, 8 pixels; 8 bits stay 8 bits at full size, everything else is 32-bit floats.
    """
    import cv2

    whole = picture if picture.dtype == np.uint8 else np.asarray(picture, dtype=np.float32)
    down, right = (-length % BLOCK for length in whole.shape)
    if down or right:
        whole = cv2.copyMakeBorder(whole, 0, down, 0, right, cv2.BORDER_REPLICATE)
    levels = [np.ascontiguousarray(whole)]
    smaller: NDArray[Any] = np.asarray(whole, dtype=np.float32)
    for _ in range(HALVINGS):
        smaller = cv2.resize(smaller, (smaller.shape[1] // 2, smaller.shape[0] // 2), interpolation=cv2.INTER_AREA)
        levels.append(smaller)
    return levels


def gradients_of(level: NDArray[Any], halvings: int) -> Gradients:
    """Return the gradients of a level that was halved so often (a pure number)."""
    import cv2

    side = BLOCK >> halvings
    across, down = (cv2.Sobel(level, cv2.CV_32F, *way, ksize=3) for way in ((1, 0), (0, 1)))

    product = np.empty_like(across)

    def mean(one: NDArray[Any], other: NDArray[Any]) -> FloatGrid:
        found = cv2.multiply(one, other, dst=product)
        if side > 1:
            small = (level.shape[1] // side, level.shape[0] // side)
            found = cv2.resize(found, small, interpolation=cv2.INTER_AREA)
        return np.asarray(found, dtype=np.float64) / (_SOBEL * BLOCK / side) ** 2

    return Gradients(across=mean(across, across), down=mean(down, down), both=mean(across, down))


def in_cells(grid: NDArray[Any], side: int, fill: Any) -> NDArray[Any]:
    """Return blocks by cell of ``side`` blocks: shape (rows, cols, blocks of a cell), filled up at the far edges."""
    rows, cols = (math.ceil(length / side) for length in grid.shape)
    whole = np.full((rows * side, cols * side), fill, dtype=grid.dtype)
    whole[: grid.shape[0], : grid.shape[1]] = grid
    return whole.reshape(rows, side, cols, side).swapaxes(1, 2).reshape(rows, cols, side * side)


def in_blocks(cells: NDArray[Any], side: int, shape: tuple[int, ...]) -> NDArray[Any]:
    """Return cells of ``side`` blocks by block again, of a shape in blocks: the other way of :func:`in_cells`."""
    rows, cols, _ = cells.shape
    whole = cells.reshape(rows, cols, side, side).swapaxes(1, 2).reshape(rows * side, cols * side)
    return whole[: shape[0], : shape[1]]
