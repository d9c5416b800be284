"""How much detail of each fineness squares of a picture hold: its power by spatial frequency, free of where it lies."""

from __future__ import annotations

from functools import cache

import numpy as np
from numpy.typing import NDArray

from welotrope.core.optics.elementwise import AnyArray
from welotrope.core.testshot.transfer import light_of

Grid = NDArray[np.float64]
TILE_PX = 128
BANDS = (2.5, 4.5, 7.5, 11.5, 16.5, 23.5, 32.5, 42.5, 56.0)  # limits, in periods across a tile


@cache
def frequencies() -> Grid:
    """Return the middle of each band, periods a pixel."""
    place, _ = _places()
    radius = _radius()
    return np.array([radius[place == band].mean() for band in range(len(BANDS) - 1)])


def tile_transforms(picture: AnyArray, corners: NDArray[np.int_]) -> NDArray[np.complex64]:
    """Return the transforms of tiles of light, without their means and faded at their edges.

    Parameters
    ----------
    picture
        Grey values, shape (height, width).
    corners
        Top left corners of the tiles, x and y, shape (n, 2).

    Returns
    -------
    NDArray
        Shape (n, TILE_PX, TILE_PX // 2 + 1).
    """
    from scipy.fft import rfft2

    found = np.empty((len(corners), TILE_PX, TILE_PX // 2 + 1), dtype=np.complex64)
    for index, (x, y) in enumerate(corners):
        light = light_of(picture[y : y + TILE_PX, x : x + TILE_PX], linear=False)
        found[index] = rfft2((light - light.mean()) * _window())
    return found


def by_band(power: NDArray[np.floating]) -> Grid:
    """Return the mean of values by frequency over each band, shape (n, bands)."""
    place, counts = _places()
    flat = power.reshape(len(power), -1)
    sums = [flat[:, place.ravel() == band].sum(axis=1, dtype=np.float64) for band in range(len(counts))]
    return np.stack(sums, axis=1) / counts


def tile_energies(picture: AnyArray, corners: NDArray[np.int_]) -> Grid:
    """Return the mean power of each band in tiles, as light squared, shape (n, bands)."""
    return by_band(np.abs(tile_transforms(picture, corners)) ** 2)


@cache
def _radius() -> Grid:
    return np.asarray(np.hypot(np.fft.rfftfreq(TILE_PX)[None, :], np.fft.fftfreq(TILE_PX)[:, None]))


@cache
def _places() -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """Return the band of each frequency, and how many each band holds."""
    place = np.digitize(_radius(), np.array(BANDS) / TILE_PX) - 1
    place[place >= len(BANDS) - 1] = -1
    counts = np.bincount(place[place >= 0], minlength=len(BANDS) - 1)
    return place, counts


@cache
def _window() -> NDArray[np.float32]:
    one = np.hanning(TILE_PX + 2)[1:-1]
    return np.outer(one, one).astype(np.float32)
