"""A picture in blocks of 8 pixels, at its own size and halved, with the gradients in each; and blocks by cell."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from welotrope.core.optics.elementwise import AnyArray

FloatGrid = NDArray[np.float64]
BlockGrid = NDArray[np.float32]  # one value a block: a picture has hundreds of thousands
BoolGrid = NDArray[np.bool_]
BLOCK = 8  # pixels
HALVINGS = 3
STRIP = 4 * BLOCK  # rows worked on at a time, which stay in the cache of a processor
_SOBEL_PX = 0.65
_SOBEL = 8.0  # sum of one side of its weights, twice
# What each halving sees through, px: its pixels are means over 2, 4, 8, and Sobel's operator spans two of them.
SCALES_PX = tuple(math.hypot(_SOBEL_PX * side, math.sqrt((side * side - 1) / 12)) for side in (2, 4, 8))


@dataclass(frozen=True, kw_only=True)
class Gradients:
    """The gradient of each block: means of its products, per pixel of the whole picture; shape (rows, cols)."""

    across: BlockGrid
    down: BlockGrid
    both: BlockGrid

    @property
    def energy(self) -> BlockGrid:
        """The mean squared gradient, in squared grey levels per squared pixel."""
        return self.across + self.down


def levels_of(picture: AnyArray) -> list[AnyArray]:
    """Return the picture and copies of half, a quarter and an eighth of its size, each the mean of the one before.

    It is filled up to whole blocks, 8 pixels; 8 bits stay 8 bits at full size, everything else is 32-bit floats.
    """
    import cv2

    whole = picture if picture.dtype == np.uint8 else np.asarray(picture, dtype=np.float32)
    down, right = (-length % BLOCK for length in whole.shape)
    if down or right:
        whole = cv2.copyMakeBorder(whole, 0, down, 0, right, cv2.BORDER_REPLICATE)
    levels = [np.ascontiguousarray(whole)]
    for _ in range(HALVINGS):
        levels.append(_halved(levels[-1]))
    return levels


def _halved(level: AnyArray) -> NDArray[np.float32]:
    import cv2

    height, width = (length // 2 for length in level.shape)
    found = np.empty((height, width), np.float32)
    for top in range(0, height, STRIP):
        strip = found[top : top + STRIP]
        piece = np.asarray(level[2 * top : 2 * (top + len(strip))], dtype=np.float32)
        cv2.resize(piece, (width, len(strip)), dst=strip, interpolation=cv2.INTER_AREA)
    return found


def gradients_of(level: AnyArray, halvings: int) -> Gradients:
    """Return the gradients of a level that was halved so often (a pure number)."""
    import cv2

    side = BLOCK >> halvings
    height, width = (length // side for length in level.shape)
    found = np.empty((3, height, width), np.float32)
    for top in range(0, level.shape[0], STRIP):
        first = max(top - 1, 0)
        piece = level[first : top + STRIP + 1]
        here = slice(top - first, top - first + min(STRIP, level.shape[0] - top))
        across, down = (cv2.Sobel(piece, cv2.CV_32F, *way, ksize=3)[here] for way in ((1, 0), (0, 1)))
        blocks = slice(top // side, top // side + len(across) // side)
        for grid, one, other in zip(found, (across, down, across), (across, down, down), strict=True):
            grid[blocks] = _mean_of_squares(cv2.multiply(one, other), side)
    found /= (_SOBEL * BLOCK / side) ** 2
    return Gradients(across=found[0], down=found[1], both=found[2])


def _mean_of_squares(values: AnyArray, side: int) -> AnyArray:
    """Return the means of squares whose side is a power of two, pixels, by halving: OpenCV does that fastest."""
    import cv2

    while side > 1:
        values = cv2.resize(values, (values.shape[1] // 2, values.shape[0] // 2), interpolation=cv2.INTER_AREA)
        side //= 2
    return values


def in_cells(grid: AnyArray, side: int, fill: object) -> AnyArray:
    """Return blocks by cell of ``side`` blocks: shape (rows, cols, blocks of a cell), filled up at the far edges."""
    rows, cols = (math.ceil(length / side) for length in grid.shape)
    whole = np.full((rows * side, cols * side), fill, dtype=grid.dtype)
    whole[: grid.shape[0], : grid.shape[1]] = grid
    return whole.reshape(rows, side, cols, side).swapaxes(1, 2).reshape(rows, cols, side * side)


def in_blocks(cells: AnyArray, side: int, shape: tuple[int, ...]) -> AnyArray:
    """Return cells of ``side`` blocks by block again, of a shape in blocks: the other way of :func:`in_cells`."""
    rows, cols, _ = cells.shape
    whole = cells.reshape(rows, cols, side, side).swapaxes(1, 2).reshape(rows * side, cols * side)
    return whole[: shape[0], : shape[1]]
