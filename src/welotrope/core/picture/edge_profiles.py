"""The profile across the edge of a block, averaged along it, so that noise goes and the edge stays.

A step of contrast ``c`` blurred by ``σ`` gives a derivative at scale ``s`` whose squares sum to
``c²/(2√π √(σ² + s²))``; the ratio of two scales is free of contrast (Elder and Zucker, *IEEE Trans. PAMI* 20 (1998)
699). Averaging along the edge keeps it and takes the energy of white noise down by as many pixels as are averaged.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from welotrope.core.optics.elementwise import AnyArray
from welotrope.core.picture.blocks import BLOCK, BoolGrid, FloatGrid, Gradients
from welotrope.core.picture.noise import Noise, Tones, noise_of, thinned

_ALONG, _STEP_PX = 15, 1.5  # samples along the edge
_REACH, _USED = 12, 6  # pixels to either side that are sampled, and of which the derivative is used
_DERIVATIVES_PX = (0.7, 1.4, 2.8)
SCALES_PX = (0.55, 1.25, 2.57)  # what they see steps through, sampled between pixels: measured on drawn ones
# Sampled along the axes nothing is interpolated, and little nearby, so that noise comes through more there, radians.
_ALONG_AXIS, _NEAR_AXIS = 0.026, 0.08
_MOST_FLAT, _LEAST_TOLD, _MOST_DIFFERENT = 1500, 12, 2.25
_BATCH, _TILE, _MARGIN = 20000, 16_384, 32  # OpenCV samples no picture of 32 768 pixels


@dataclass(frozen=True, kw_only=True)
class EdgeEnergies:
    """The energies of chosen blocks at each scale, and the noise at their class of brightness and direction.

    Arrays of shape (scales, blocks).
    """

    energies: FloatGrid
    levels: FloatGrid
    scatters: FloatGrid


def directions(gradients: list[Gradients], noise: list[Noise]) -> FloatGrid:
    """Return the direction across the edge of each block, radians, by all levels, the quieter counting more.

    Parameters
    ----------
    gradients
        Gradients of each level.
    noise
        Noise of each level.
    """
    import cv2

    def weighed(part: str) -> AnyArray:
        total = sum(getattr(one, part) / (known.usual + 1e-3) for one, known in zip(gradients, noise, strict=True))
        return np.asarray(cv2.blur(np.asarray(total), (3, 3)))

    angle: FloatGrid = 0.5 * np.arctan2(2 * weighed("both"), weighed("across") - weighed("down"))
    return angle


def edge_energies(
    picture: AnyArray, chosen: BoolGrid, flat: BoolGrid, angles: FloatGrid, tones: Tones,
    floors: tuple[float, ...],
) -> EdgeEnergies:  # fmt: skip
    """Return what the edges of chosen blocks hold, and the noise by flat blocks.

    Edges are looked at across, flat blocks along their direction, ``angles`` by block in radians: where there is
    nothing else it follows the noise, which across it would look louder than it is. ``floors`` are what stays uncertain
    at each scale where nothing scatters, in squared grey levels.

    Parameters
    ----------
    picture
        Grey values, shape (height, width), of 8 or 16 bits or as floats.
    chosen
        Whether each block is looked at, shape (rows, columns).
    flat
        Whether each block is flat, shape (rows, columns).
    angles
        Direction across the edge of each block in radians.
    tones
        Class of brightness of each block.
    floors
        Squared grey levels that stay uncertain at each scale.
    """
    still = thinned(flat, _MOST_FLAT)
    by_edge = _energies(picture, np.nonzero(chosen), angles[chosen])
    by_flat = _energies(picture, np.nonzero(still), angles[still] + np.pi / 2)
    tested_class, edge_class, tone = _axis_class(angles[still]), _axis_class(angles[chosen]), tones[chosen]
    levels, scatters = [], []
    for energy, floor in zip(by_flat, floors, strict=True):
        factors = _by_class(energy, tested_class)
        known = noise_of(energy / factors[tested_class], tones[still], floor)
        levels.append(known.levels[tone] * factors[edge_class])
        scatters.append(known.scatters[tone] * factors[edge_class])
    return EdgeEnergies(energies=by_edge, levels=np.array(levels), scatters=np.array(scatters))


def _by_class(energies: FloatGrid, classes: NDArray[np.intp]) -> FloatGrid:
    """Return how much more noise comes through in each class of direction than on the whole."""
    usual = float(np.median(energies)) if len(energies) else 0.0
    held = [energies[classes == one] for one in range(3)]
    found = [float(np.median(one)) / usual if len(one) >= _LEAST_TOLD and usual > 0 else 1.0 for one in held]
    return np.clip(found, 1 / _MOST_DIFFERENT, _MOST_DIFFERENT)


def _off_axis(angles: FloatGrid) -> FloatGrid:
    return (angles + np.pi / 4) % (np.pi / 2) - np.pi / 4


def _axis_class(angles: FloatGrid) -> NDArray[np.intp]:
    """Return 0 along an axis of the picture, 1 near one, 2 elsewhere."""
    found: NDArray[np.intp] = np.digitize(np.abs(_off_axis(angles)), (_ALONG_AXIS, _NEAR_AXIS))
    return found


def _energies(picture: AnyArray, where: tuple[NDArray[np.intp], ...], angles: FloatGrid) -> FloatGrid:
    """Return the squared derivative of each profile, summed over its middle, at each scale."""
    count = len(angles)
    profiles = np.empty((count, 2 * _REACH + 1), np.float32)
    for start in range(0, count, _BATCH):
        part = slice(start, start + _BATCH)
        profiles[part] = _profiles(picture, where[0][part], where[1][part], angles[part])
    found = [profiles @ _derivative(scale) for scale in _DERIVATIVES_PX]
    return np.array([np.einsum("ij,ij->i", one, one) for one in found], dtype=np.float64)


def _derivative(scale_px: float) -> NDArray[np.float32]:
    """Return the matrix that takes a profile to its derivative through a Gaussian, at the middle pixels."""
    half = _REACH - _USED
    at = np.arange(-half, half + 1)
    weights = -at * np.exp(-(at**2) / 2 / scale_px**2)
    kernel = weights / -(weights @ at)
    matrix = np.zeros((2 * _REACH + 1, 2 * _USED + 1), np.float32)
    for place in range(2 * _USED + 1):
        matrix[place : place + 2 * half + 1, place] = kernel
    return matrix


def _profiles(
    picture: AnyArray, rows: NDArray[np.intp], cols: NDArray[np.intp], angles: FloatGrid
) -> NDArray[np.float32]:
    off = _off_axis(angles)
    straight = np.abs(off) < _ALONG_AXIS
    angles = np.where(straight, angles - off, angles)
    across = np.arange(-_REACH, _REACH + 1, dtype=np.float32)[None, None, :]
    steps = (np.arange(_ALONG, dtype=np.float32) - _ALONG // 2) * _STEP_PX
    along = np.where(straight[:, None], np.rint(steps), steps)[:, :, None].astype(np.float32)
    cos, sin = (turn(angles).astype(np.float32)[:, None, None] for turn in (np.cos, np.sin))
    # The middle is a pixel, so that along the axes nothing is interpolated.
    x = (cols * BLOCK + BLOCK // 2).astype(np.float32)[:, None, None] + across * cos - along * sin
    y = (rows * BLOCK + BLOCK // 2).astype(np.float32)[:, None, None] + across * sin + along * cos
    sampled = _sampled(picture, x.reshape(len(rows), -1), y.reshape(len(rows), -1))
    found: NDArray[np.float32] = sampled.reshape(len(rows), _ALONG, -1).mean(axis=1, dtype=np.float32)
    return found


def _sampled(picture: AnyArray, x: NDArray[np.float32], y: NDArray[np.float32]) -> AnyArray:
    """Return the picture between its pixels, each row of places in a piece of it that OpenCV can hold."""
    import cv2

    if max(picture.shape) < 2 * _TILE:
        return np.asarray(cv2.remap(picture, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE))
    found = np.empty(x.shape, picture.dtype)
    tile = np.stack([y[:, x.shape[1] // 2], x[:, x.shape[1] // 2]]).astype(np.intp) // _TILE
    for row, col in np.unique(tile, axis=1).T:
        here = (tile[0] == row) & (tile[1] == col)
        top, left = max(row * _TILE - _MARGIN, 0), max(col * _TILE - _MARGIN, 0)
        piece = picture[top : (row + 1) * _TILE + _MARGIN, left : (col + 1) * _TILE + _MARGIN]
        found[here] = cv2.remap(
            piece, x[here] - np.float32(left), y[here] - np.float32(top), cv2.INTER_LINEAR,
            borderMode=cv2.BORDER_REPLICATE,
        )  # fmt: skip
    return found
