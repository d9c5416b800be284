"""How blurred sheets are that are looked at straight: each patch by itself, since blur differs little within one."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray

from welotrope.core.optics.elementwise import AnyArray
from welotrope.core.testshot.blur_fit import MOST_PX, SIDE, SMALL_SIDE, blurs_alone
from welotrope.core.testshot.find_sheet import FoundSheet
from welotrope.core.testshot.patch_places import coarsest, middles_of, moved_by, put_right
from welotrope.core.testshot.plane_fit import Seen, pooled, single_blurs
from welotrope.core.testshot.transfer import compare, light_of

Grid = NDArray[np.float64]
TILE_PX = 128
BANDS = (2.5, 4.5, 7.5, 11.5, 16.5, 23.5, 32.5, 42.5, 56.0)  # limits, in periods across a tile
OWN_PX = 0.5  # what lens and sensor are taken to blur of themselves, a standard deviation; the rest is fitted
_COARSE_SIDE, _COARSE_PATCHES, _ALIKE = 32, 50, 0.3
_PATCH_BLUR_PX = 7.0  # diameter of blur up to which a patch is looked at in so fine pixels, its own
_LEAST_PATCHES, _PATCHES = 4, 16
_GROWS, _AT_LEAST = 0.03, 0.03  # scatter of squared blur that the model leaves: a share, and squared px
_CONTRAST_ALIKE = 2.0


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
    """Return the mean of values by frequency over each band, shape (n, bands).

    Parameters
    ----------
    power
        Power by frequency, shape (n, side, side // 2 + 1).
    """
    place, counts = _places()
    flat = power.reshape(len(power), -1)
    sums = [flat[:, place.ravel() == band].sum(axis=1, dtype=np.float64) for band in range(len(counts))]
    return np.stack(sums, axis=1) / counts


def tile_energies(picture: AnyArray, corners: NDArray[np.int_]) -> Grid:
    """Return the mean power of each band in tiles, as light squared, shape (n, bands).

    Parameters
    ----------
    picture
        Grey values, shape (height, width), of 8 or 16 bits or as floats.
    corners
        Row and column of the top left pixel of each tile, shape (n, 2).
    """
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


BARE_PAPER = np.array([(x, y) for x in (-14.0, 14.0) for y in (-14.0, 14.0)])  # about the cross, mm


@dataclass(frozen=True, kw_only=True)
class FacingBlurs:
    """The blur of patches of a sheet; one row a patch.

    Parameters
    ----------
    found
        The sheet, put right by where its patches lie.
    centres_mm
        On the page, shape (n, 2).
    squared, scatter
        The square of the blur's diameter beyond :data:`OWN_PX`, and its standard deviation, squared px of the picture.
    """

    found: FoundSheet
    centres_mm: Grid
    squared: Grid
    scatter: Grid


def facing_blurs(picture: AnyArray, found: FoundSheet, *, linear: bool = False) -> FacingBlurs | None:
    """Return how blurred a sheet is; None where too little of it can be made out.

    Parameters
    ----------
    picture
        Grey values, from :func:`~welotrope.core.testshot.transfer.as_shares`.
    found
        The sheet in it.
    linear
        Whether the values stand for light as they are.
    """
    coarse = coarsest(found)
    about: float | None = None
    for per_px in (coarse, max(coarse // 2, 1), max(coarse // 4, 1)):
        centres = middles_of(found, _COARSE_SIDE * per_px)
        centres = centres[:: max(len(centres) // _COARSE_PATCHES, 1)]
        if len(centres) < _LEAST_PATCHES:
            continue
        patches = compare(picture, found, centres, per_px=per_px, side=_COARSE_SIDE, linear=linear)
        good = patches.likeness > _ALIKE
        if good.sum() < _LEAST_PATCHES:
            continue
        kept, variance = pooled(patches)
        every = np.zeros(int(good.sum()))
        seen = Seen(
            x=every, z=every, per_px=every + per_px, within=every, kept=kept[good], variance=variance[good],
            frequency=patches.frequency,
        )  # fmt: skip
        about = float(np.median(single_blurs(seen))) * per_px
        found = put_right(found, patches) or moved_by(found, patches.shift_px[good])
        if about > _PATCH_BLUR_PX * per_px / 2:
            break
    return None if about is None else _closely(picture, found, about, linear=linear)


def _closely(picture: AnyArray, found: FoundSheet, about_px: float, *, linear: bool) -> FacingBlurs | None:
    per_px = 2 ** max(math.ceil(math.log2(max(about_px, 1.0) / _PATCH_BLUR_PX)), 0)
    centres, side = middles_of(found, SIDE * per_px), SIDE
    if len(centres) < _LEAST_PATCHES:
        centres, side = middles_of(found, SMALL_SIDE * per_px), SMALL_SIDE
    if len(centres) < _LEAST_PATCHES:
        return None
    centres = centres[:: max(len(centres) // _PATCHES, 1)]
    blurs = blurs_alone(
        picture, found, centres, (about_px / per_px) ** 2, own_px=OWN_PX, per_px=per_px, side=side, linear=linear
    )  # fmt: skip
    usual = float(np.median(blurs.contrast))
    good = (blurs.contrast > usual / _CONTRAST_ALIKE) & (blurs.contrast < usual * _CONTRAST_ALIKE)
    good &= np.isfinite(blurs.squared) & (blurs.squared < MOST_PX**2)
    if usual <= 0 or good.sum() < _LEAST_PATCHES:
        return None
    squared, variance = blurs.squared[good] * per_px**2, blurs.variance[good] * per_px**4
    scatter = np.sqrt(variance + (_AT_LEAST * per_px**2) ** 2 + (_GROWS * squared) ** 2)
    return FacingBlurs(found=found, centres_mm=centres[good], squared=squared, scatter=scatter)
