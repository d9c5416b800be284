"""A spot of a live picture, as the transforms of its tiles: what its sharpness is compared by."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray

from welotrope.core.errors import OutOfRangeError
from welotrope.core.fields import SPOT
from welotrope.core.optics.elementwise import AnyArray
from welotrope.core.testshot.transfer import light_table

TILE_PX = 128
FINEST = 0.37  # periods a pixel, up to which detail is compared
LEAST_PX, MOST_PIXELS = 64, 1_000_000
_BLOCK_PX = 8  # as wide as compression of pictures and of most video works
_BLACK, _WHITE = 0.002, 0.96  # mean light below and above which nothing is left to compare

Grid = NDArray[np.float64]
Spectra = NDArray[np.complex64]


@dataclass(frozen=True, kw_only=True)
class LiveSpot:
    """A spot of one picture.

    Parameters
    ----------
    size_px
        Its width and height.
    light
        Its mean light, 0 to 1.
    spectra
        Transforms of its tiles over its mean light, as far as they are used, shape (n, rows, columns).
    side
        Of a tile, pixels.
    """

    size_px: tuple[int, int]
    light: float
    side: int
    spectra: Spectra

    @property
    def is_black(self) -> bool:
        """Whether it is too dark to hold anything."""
        return self.light < _BLACK

    @property
    def is_white(self) -> bool:
        """Whether it is so bright that detail is cut off."""
        return self.light > _WHITE


@dataclass(frozen=True, kw_only=True)
class Tiling:
    """Where the tiles of a spot lie: their side, their corners, and their middles from that of the spot, pixels."""

    side: int
    corners: NDArray[np.int_]
    middles: Grid


@cache
def tiling_of(size_px: tuple[int, int]) -> Tiling:
    """Return the tiles of a spot: 16 at most, side by side about its middle.

    Parameters
    ----------
    size_px
        Width and height of the picture in pixels.

    Raises
    ------
    OutOfRangeError
        When it is under 64 pixels a side, or holds more than a million.
    """
    width, height = size_px
    if min(size_px) < LEAST_PX or width * height > MOST_PIXELS:
        raise OutOfRangeError(
            SPOT, f"{width} × {height} px", "that cannot be measured",
            f"Send at least {LEAST_PX} pixels a side, and at most a million in all",
        )  # fmt: skip
    side = min(TILE_PX, min(size_px) // 2 * 2)
    across, down = (min(max(length // side, 1), 4) for length in size_px)
    left, top = (width - across * side) // 2, (height - down * side) // 2
    corners = np.array([(left + x * side, top + y * side) for y in range(down) for x in range(across)])
    return Tiling(side=side, corners=corners, middles=corners + side / 2 - np.array(size_px) / 2)


def spot_of(grey: AnyArray) -> LiveSpot:
    """Return the spot whose grey values are given.

    Parameters
    ----------
    grey
        Values of 8 bits, shape (height, width), as a camera tones them.

    Raises
    ------
    OutOfRangeError
        When its size cannot be measured.
    """
    import cv2
    from scipy.fft import rfft2

    height, width = grey.shape
    tiling = tiling_of((width, height))
    side = tiling.side
    tiles = np.stack([grey[y : y + side, x : x + side] for x, y in tiling.corners])
    light = np.asarray(cv2.LUT(tiles.reshape(-1, side), light_table(linear=False)), dtype=np.float32).reshape(
        tiles.shape
    )
    means = light.mean(axis=(1, 2), keepdims=True)
    mean = float(means.mean())
    light -= means
    faded = light * (window(side) * np.float32(1 / max(mean, 1e-4)))
    spectra = rfft2(faded)[:, rows_kept(side), : _columns(side)]
    return LiveSpot(size_px=(width, height), side=side, light=mean, spectra=spectra)


def blocks_in(grey: AnyArray) -> float:
    """Return how far the edges of a compressed picture's blocks stand out: their steps over those between all pixels.

    A pure number: 0 where none show, 1 where a step at their edge is larger by a mean step than those beside it.

    Parameters
    ----------
    grey
        Values of 8 bits, shape (height, width).
    """
    import cv2

    found = []
    for turned in (grey, cv2.transpose(grey)):
        steps = cv2.reduce(cv2.absdiff(turned[:, 1:], turned[:, :-1]), 0, cv2.REDUCE_AVG, dtype=cv2.CV_32F)[0]
        out = steps[1:-1] - (steps[:-2] + steps[2:]) / 2
        at = np.array([out[start::_BLOCK_PX].mean() for start in range(_BLOCK_PX)])
        found.append((at.max() - np.median(at)) / (steps.mean() + 1e-6))
    return float(np.mean(found))


def rows_kept(side: int) -> NDArray[np.intp]:
    """Return the rows of a transform that are used, those of the frequencies up to 0.37 periods a pixel.

    Parameters
    ----------
    side
        Length of a tile's side in pixels.
    """
    return np.flatnonzero(np.abs(np.fft.fftfreq(side)) <= FINEST)


def _columns(side: int) -> int:
    """Return how many columns of a transform are used, a pure number."""
    return int((np.fft.rfftfreq(side) <= FINEST).sum())


@cache
def axes(side: int) -> tuple[Grid, Grid]:
    """Return the frequencies across and down of what is kept of a transform, periods a pixel, each of its shape.

    Parameters
    ----------
    side
        Length of a tile's side in pixels.
    """
    across, down = np.meshgrid(np.fft.rfftfreq(side)[: _columns(side)], np.fft.fftfreq(side)[rows_kept(side)])
    return across, down


@cache
def window(side: int) -> NDArray[np.float32]:
    """Return what a tile is multiplied with, shape (side, side): 1 in its middle, 0 at its edges.

    Parameters
    ----------
    side
        Length of a tile's side in pixels.
    """
    ramp = np.hanning(side // 2 + 2)[1 : side // 4 + 1]
    one = np.concatenate([ramp, np.ones(side - 2 * len(ramp)), ramp[::-1]])
    return np.outer(one, one).astype(np.float32)
