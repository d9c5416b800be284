"""Blur as a lens makes it: every point spread over the shape of the aperture, from a fraction of a pixel up."""

from __future__ import annotations

import functools
import math

import cv2
import numpy as np

from welotrope.core.finder.light import Light

NO_BLUR_PX = 0.25
_DIRECT_PX = 9.0  # a kernel of 11; past that OpenCV takes a way three times as long
_TWICE_PX = _DIRECT_PX * math.sqrt(2)
_ROUGHLY_PX = 5.0, 7.0  # where it need not be exact: from which on a smaller copy does, and how wide discs are there
_FINE, _SMALL_PX = 16, 2.5  # parts of a pixel that are counted, eight times as many up to a few pixels


def parted(diameter_px: float, *, roughly: bool = False) -> tuple[int, float]:
    """Return on how many times smaller a copy a disc is spread, a pure number, and the disc there, pixels of it.

    Averaging and interpolating spread of themselves, which is taken out of the disc.

    Parameters
    ----------
    diameter_px
        Diameter of the disc in pixels.
    roughly
        Whether edges may be softer or harder by a seventh, for what is not focused on; in half the time.
    """
    alone, most = _ROUGHLY_PX if roughly else (_TWICE_PX, _TWICE_PX)
    if diameter_px <= alone:
        return 1, diameter_px
    times = 2 ** max(math.ceil(math.log2(diameter_px / most)), 1)
    # They spread with a variance of q²/12 to (q² − 1)/12 + q²/6, by where an edge falls on the small pixels; a disc
    # has d²/16.
    softness = 16 * (times**2 / 12 + (times**2 - 1) / 12 + times**2 / 6) / 2
    return times, math.sqrt(max(diameter_px**2 - softness, 1.0)) / times


def spread(light: Light, diameter_px: float) -> Light:
    """Return light with every point spread over a disc, in two passes over one that is wide; as far as the disc would.

    Parameters
    ----------
    light
        Planes, shape (any number, height, width).
    diameter_px
        Diameter of the disc, pixels, 13 at most; under a quarter of one nothing is done.
    """
    if diameter_px < NO_BLUR_PX or light.size == 0:
        return light
    out = np.empty_like(light)
    rest = math.sqrt(max(diameter_px**2 - _DIRECT_PX**2, 0.0))
    kernel = _spreading(_rounded(min(diameter_px, _DIRECT_PX)))
    for number, plane in enumerate(light):
        cv2.filter2D(plane, -1, kernel, dst=out[number], borderType=cv2.BORDER_REPLICATE)
    return spread(out, rest) if rest > NO_BLUR_PX else out


@functools.lru_cache(maxsize=512)
def disc(diameter_px: float) -> Light:
    """Return the kernel of a disc, its edge pixels weighted by the area they cover; sums to 1.

    Parameters
    ----------
    diameter_px
        Diameter in pixels.
    """
    reach = math.ceil(diameter_px / 2 + 0.5 - 1e-9)
    size = 2 * reach + 1
    parts = _FINE if diameter_px > _SMALL_PX else 8 * _FINE
    fine = (np.arange(size * parts) + 0.5) / parts - size / 2
    inside = (fine[:, None] ** 2 + fine[None, :] ** 2) <= (diameter_px / 2) ** 2
    kernel = inside.reshape(size, parts, size, parts).mean(axis=(1, 3)).astype(np.float32)
    total = float(kernel.sum())
    if total <= 0:
        kernel[reach, reach] = total = 1.0
    return np.asarray(kernel / np.float32(total), np.float32)


@functools.lru_cache(maxsize=512)
def _spreading(diameter_px: float) -> Light:
    """Return the kernel whose second moment is that of a disc: a disc made of pixels spreads a little farther."""
    made, spread = _spreads()
    return disc(float(np.interp(diameter_px, spread, made)))


@functools.cache
def _spreads() -> tuple[Light, Light]:
    """Diameters of kernels, and of the discs that spread as they do."""
    made = np.arange(0, _DIRECT_PX + 2, 0.05)
    spread = []
    for diameter in made:
        kernel = disc(round(float(diameter), 2))
        at = np.arange(kernel.shape[0]) - kernel.shape[0] // 2
        spread.append(4 * math.sqrt(float(kernel.sum(axis=0) @ at**2)))
    return made.astype(np.float32), np.maximum.accumulate(np.array(spread, np.float32))


def _rounded(diameter_px: float) -> float:
    """To a twentieth of a pixel, so that few kernels are made."""
    return round(diameter_px * 20) / 20
