"""Laying one frame on another: where it lies, to parts of a pixel, and by how much focusing changed its scale."""

from __future__ import annotations

import math
from functools import cache

import numpy as np
from numpy.typing import NDArray

from welotrope.core.live.spot import Spectra, axes, rows_kept
from welotrope.core.picture.likeness import highest_within

Grid = NDArray[np.float64]
REACH_PX = 12.0  # how far a frame may lie off before it is another picture
_TOLD_BY = (0.02, 0.2)  # periods a pixel, whose phase tells a small shift
_MOST_REST_PX = 1.5


def laid_on(template: Spectra, spectra: Spectra, side: int, middles: Grid) -> tuple[Spectra, float]:
    """Return the transforms of a frame's tiles laid on those of a template, and how far off it lay, pixels.

    Parameters
    ----------
    template, spectra
        Transforms of tiles, shape (tiles, rows, columns).
    side
        Of a tile, pixels.
    middles
        Of the tiles, from that of the spot, pixels, shape (tiles, 2).
    """
    cross = template.conj() * spectra
    off = _shift(cross.sum(axis=0), side)
    if math.isinf(off[0]):  # nowhere near: left where it is, so that it looks like what it is, another picture
        return spectra, math.inf
    common = np.array([off])
    rest = _rest(cross * _turned(side, common), side, middles)
    return spectra * _turned(side, common + rest), math.hypot(*common[0])


def _shift(cross: NDArray[np.complex64], side: int) -> tuple[float, float]:
    """Return how far the frame lies to the right of the template and below it, pixels, by their likeness."""
    from scipy.fft import irfft2

    # The coarse half of the frequencies is a picture of half as many pixels.
    half = side // 2
    rows = rows_kept(side)
    coarse = (rows < half // 2) | (rows > side - half // 2)
    small = np.zeros((half, half // 2 + 1), dtype=np.complex64)
    columns = min(cross.shape[1], half // 2 + 1)
    small[np.where(rows < half, rows, rows - half)[coarse], :columns] = (cross * _coarse(side))[coarse, :columns]
    found = highest_within(irfft2(small, s=(half, half)), min(int(REACH_PX) // 2 + 1, half // 4))
    return (2 * found[0], 2 * found[1]) if found else (math.inf, math.inf)


@cache
def _coarse(side: int) -> NDArray[np.float32]:
    """Return weights of the frequencies that a place is found by: those that focus leaves."""
    radius = np.hypot(*axes(side))
    weight = np.clip(radius / 0.03, 0, 1) * np.exp(-((radius / 0.14) ** 2))
    return weight.astype(np.float32)


@cache
def _weights(side: int) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Return how much each frequency tells of a shift across and down, and of how surely it does."""
    axes_of = np.stack(axes(side), axis=2)
    radius = np.hypot(*axes(side))
    told = ((radius > _TOLD_BY[0]) & (radius < _TOLD_BY[1]))[:, :, None]
    rising = told * axes_of * 2 * np.pi
    return rising.astype(np.float32), np.square(rising).astype(np.float32)


def _rest(cross: Spectra, side: int, middles: Grid) -> Grid:
    """Return how far each tile still lies off, pixels, shape (tiles, 2): a shift of all, and a change of scale."""
    rising, squared = _weights(side)
    turned = -np.tensordot(cross.imag, rising)
    force = np.maximum(np.tensordot(cross.real, squared), 0.0)
    if force.sum() <= 0:
        return np.zeros((len(cross), 2))
    design = np.zeros((len(cross), 2, 3))
    design[:, 0, 0] = design[:, 1, 1] = 1
    design[:, :, 2] = middles / side
    rows, weights = design.reshape(-1, 3), force.ravel()
    normal = rows.T @ (weights[:, None] * rows) + np.eye(3) * weights.sum() * 1e-6
    found = np.linalg.solve(normal, rows.T @ turned.ravel())
    return np.clip((rows @ found).reshape(-1, 2), -_MOST_REST_PX, _MOST_REST_PX)


def _turned(side: int, shift: Grid) -> Spectra:
    """Return the factors that shift transforms to the left and up, shape (tiles, rows, columns)."""
    across, down = axes(side)
    right = np.exp(2j * np.pi * across[0] * shift[:, :1]).astype(np.complex64)
    below = np.exp(2j * np.pi * down[:, 0] * shift[:, 1:]).astype(np.complex64)
    return np.asarray(below[:, :, None] * right[:, None, :])
