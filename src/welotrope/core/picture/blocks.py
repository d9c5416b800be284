"""Where a picture holds detail: in blocks of 8 pixels, in square windows, and whether as fine as its pixels."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cache

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
_EVERY = 8  # rows of which one is looked at
_FLAT = 1.5  # standard deviation below which a window of 256 greys shows nothing
WINDOW_PX = 128
_LEAST, _MOST = 4, 40  # windows that are judged: those with most fine detail
_MIDDLE, _FINE = (0.08, 0.2), (0.3, 0.45)  # bands of spatial frequency, cycles a pixel
# Power of the fine band over that of the middle one, a pixel. Pictures sharp to the pixel have 0.012 and more, noise of
# a sensor far more; enlarged by 1.5 or 2, softened by 1.2 px, or out of focus by a disc of 3 px radius, 0.001 to 0.006.
_SHARE = 0.009


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

    Parameters
    ----------
    picture
        Grey values, shape (height, width), of 8 or 16 bits or as floats.
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
    """Return the gradients of a level that was halved so often (a pure number).

    Parameters
    ----------
    level
        Grey values of the picture at its own size or halved, shape (height, width).
    halvings
        How often it was halved.
    """
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
    """Return blocks by cell of ``side`` blocks: shape (rows, cols, blocks of a cell), filled up at the far edges.

    Parameters
    ----------
    grid
        One value a block, shape (rows, columns).
    side
        Length of a cell's side, in blocks.
    fill
        What is put where there is no block.
    """
    rows, cols = (math.ceil(length / side) for length in grid.shape)
    whole = np.full((rows * side, cols * side), fill, dtype=grid.dtype)
    whole[: grid.shape[0], : grid.shape[1]] = grid
    return whole.reshape(rows, side, cols, side).swapaxes(1, 2).reshape(rows, cols, side * side)


def in_blocks(cells: AnyArray, side: int, shape: tuple[int, ...]) -> AnyArray:
    """Return cells of ``side`` blocks by block again, of a shape in blocks: the other way of :func:`in_cells`.

    Parameters
    ----------
    cells
        One row of blocks a cell, shape (rows, columns, side²).
    side
        Length of a cell's side, in blocks.
    shape
        Rows and columns, in blocks.
    """
    rows, cols, _ = cells.shape
    whole = cells.reshape(rows, cols, side, side).swapaxes(1, 2).reshape(rows * side, cols * side)
    return whole[: shape[0], : shape[1]]


def detailed_windows(picture: AnyArray, side: int, most: int) -> list[NDArray[np.float32]]:
    """Return the windows that show most detail, at most so many, in 256 greys; none that is flat.

    They lie side by side, and by halves over each other where there would be too few.

    Parameters
    ----------
    picture
        Grey values of any range, shape (height, width).
    side
        Of a window, pixels; even.
    most
        Windows at most.
    """
    white = 255.0 if picture.dtype == np.uint8 else max(float(np.max(picture)), 1e-6)
    places = _by_detail(picture, side, 0)
    if len(places) < most:
        places = sorted(places + _by_detail(picture, side, side // 2), reverse=True)
    found = []
    for _, y, x in places[:most]:
        window = picture[y : y + side, x : x + side].astype(np.float32) * np.float32(255.0 / white)
        if window.std() >= _FLAT:
            found.append(window)
    return found


@cache
def faded_edges(side: int) -> NDArray[np.float32]:
    """Return what a window is multiplied with before its transform, so that its borders are no edges.

    Parameters
    ----------
    side
        Length of a window's side in pixels.
    """
    fade = np.hanning(side)
    return np.outer(fade, fade).astype(np.float32)


def _by_detail(picture: AnyArray, side: int, shifted: int) -> list[tuple[float, int, int]]:
    """Return windows side by side with their mean step between neighbours, top and left of each, most detail first."""
    import cv2

    rows, columns = ((length - shifted) // side for length in picture.shape)
    if rows < 1 or columns < 1:
        return []
    held = picture[shifted : shifted + rows * side : _EVERY, shifted : shifted + columns * side]
    steps = np.zeros(held.shape, dtype=held.dtype)
    steps[:, 1:] = cv2.absdiff(np.ascontiguousarray(held[:, 1:]), np.ascontiguousarray(held[:, :-1]))
    means = cv2.resize(steps.astype(np.float32), (columns, rows), interpolation=cv2.INTER_AREA)
    return sorted(
        ((float(means[y, x]), shifted + y * side, shifted + x * side) for y in range(rows) for x in range(columns)),
        reverse=True,
    )


def is_softened(picture: AnyArray) -> bool:
    """Whether no part of a picture has detail as fine as its pixels; False where too little shows anything.

    Parameters
    ----------
    picture
        Grey values of any range, shape (height, width).
    """
    shares = [_fine_share(window) for window in detailed_windows(picture, WINDOW_PX, _MOST)]
    return len(shares) >= _LEAST and max(shares) < _SHARE


def _fine_share(window: NDArray[np.float32]) -> float:
    """Return the power of the fine band over that of the middle one, of one window of grey values."""
    from scipy.fft import rfft2  # slow to import, so only where a picture is looked at

    power = np.abs(rfft2((window - window.mean()) * faded_edges(WINDOW_PX))) ** 2
    fine, middle = (float(power[band].mean()) for band in _bands())
    return fine / max(middle, 1e-12)


@cache
def _bands() -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """Return which frequencies of half a transform lie in the fine band and in the middle one."""
    frequency = np.hypot(np.fft.fftfreq(WINDOW_PX)[:, None], np.fft.rfftfreq(WINDOW_PX)[None, :])
    fine, middle = ((low <= frequency) & (frequency < high) for low, high in (_FINE, _MIDDLE))
    return fine, middle
