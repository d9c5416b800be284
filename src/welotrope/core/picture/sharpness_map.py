"""Where in a picture focus fell: how blurred its edges are, place by place, against the picture's own noise.

In a band between two Gaussians of ``s`` and ``2s`` pixels a step edge that is blurred by ``σ`` leaves the gradient
energy ``E(s) ∝ c²/√(σ² + s²)`` per length of edge, ``c`` being its contrast. The ratio of two scales is free of
contrast and of how many edges there are, and gives ``σ`` (Elder and Zucker, *IEEE Trans. PAMI* 20 (1998) 699, choose
scales likewise by what stands above noise). Noise is measured at every scale where the picture is flattest, so that
grain, which is not white, is not taken for detail. What has no edges, or none above the noise, is said to be unknown.
Lines thinner than their blur look sharper to it than edges do.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from welotrope.core.errors import OutOfRangeError

FloatGrid = NDArray[np.float64]
LONG_CELLS = 48
LEAST_PX, MOST_PX = 32, 60_000
MOST_PLACES = 12
_SCALES = (0.8, 1.6, 3.2, 6.4)  # px
_FLATTEST = 0.12  # share of the cells as bright whose energy is taken for noise
_TONES, _LOUDEST = 10, 6.0
_STEEPEST, _LOUDER = 2.2, 4.0
_ABOVE = 3.0  # times its own scatter that energy must stand above the noise
_FINE_ABOVE = 3.0
_HALF_AT_PX = 1.2  # blur at which the score is a half
_APART = 2.5  # cells between two places that are told apart


@dataclass(frozen=True, kw_only=True)
class Place:
    """A place that is sharp: fractions of width and height from the top left, its score, and its blur, pixels."""

    x: float
    y: float
    score: float
    blur_px: float


@dataclass(frozen=True, kw_only=True)
class SharpnessMap:
    """How sharp a picture is, cell by cell.

    Parameters
    ----------
    width_px, height_px
        Of the picture.
    scores
        Rows of scores from 0 to 1; NaN where nothing can be said. One half is a blur of 1.2 pixels.
    blur_px
        The standard deviation of the blur behind them, pixels; NaN likewise.
    places
        The sharpest places, best first.
    """

    width_px: int
    height_px: int
    scores: FloatGrid
    blur_px: FloatGrid
    places: tuple[Place, ...]

    @property
    def rows(self) -> int:
        """Rows of cells, a pure number."""
        return int(self.scores.shape[0])

    @property
    def cols(self) -> int:
        """Columns of cells, a pure number."""
        return int(self.scores.shape[1])


def sharpness_map(picture: NDArray[Any]) -> SharpnessMap:
    """Return the map of a picture, given as grey values of any range, shape (height, width).

    Raises
    ------
    OutOfRangeError
        When it is no picture, smaller than 32 pixels a side, or larger than 60 000.
    """
    if picture.ndim != 2 or not all(LEAST_PX <= side <= MOST_PX for side in picture.shape):
        raise OutOfRangeError(
            "picture", " × ".join(map(str, picture.shape[::-1])), "it has no size that can be judged",
            f"Take one of {LEAST_PX} to {MOST_PX} pixels a side",
        )  # fmt: skip
    height, width = picture.shape
    side = max(math.ceil(max(width, height) / LONG_CELLS), 8)
    energies = [_energy(picture, scale, side) for scale in _SCALES]
    blur = _blur(energies, _cells(np.asarray(picture, dtype=np.float32), side))
    scores = 1 / (1 + (blur / _HALF_AT_PX) ** 2)
    places = _places(scores, blur, energies[0], (width, height), side)
    return SharpnessMap(width_px=width, height_px=height, scores=scores, blur_px=blur, places=places)


def _energy(picture: NDArray[Any], scale: float, side: int) -> FloatGrid:
    """Return the mean squared gradient of each cell at a scale, px."""
    import cv2

    grey = np.asarray(picture, dtype=np.float32)
    smooth = cv2.GaussianBlur(grey, (0, 0), scale, borderType=cv2.BORDER_REFLECT)
    across, down = (
        cv2.Scharr(smooth, cv2.CV_32F, 1, 0, scale=1 / 32),
        cv2.Scharr(smooth, cv2.CV_32F, 0, 1, scale=1 / 32),
    )
    return _cells(across * across + down * down, side)


def _cells(values: NDArray[np.float32], side: int) -> FloatGrid:
    """Return means over square cells of a side, px; those at the far edges may be smaller."""
    rows, cols = (math.ceil(length / side) for length in values.shape)
    sums = np.add.reduceat(
        np.add.reduceat(values.astype(np.float64), np.arange(rows) * side, 0), np.arange(cols) * side, 1
    )
    high = np.minimum(side, values.shape[0] - np.arange(rows) * side)
    wide = np.minimum(side, values.shape[1] - np.arange(cols) * side)
    found: FloatGrid = sums / (high[:, None] * wide[None, :])
    return found


def _noise(energy: FloatGrid, brightness: FloatGrid) -> tuple[FloatGrid, FloatGrid]:
    """Return the level of the noise and its scatter for each cell, from the flattest cells as bright as it.

    Noise grows with light; where nothing as bright is flat it is taken to be at most some times that of the quietest.
    """
    edges = np.quantile(brightness, np.linspace(0, 1, _TONES + 1)[1:-1])
    tone = np.digitize(brightness, edges)
    levels, scatters = np.zeros(_TONES), np.zeros(_TONES)
    for index in range(_TONES):
        ordered = np.sort(energy[tone == index])
        if len(ordered):
            flattest = ordered[: max(int(len(ordered) * _FLATTEST), 3)]
            levels[index] = np.median(flattest)
            scatters[index] = np.percentile(flattest, 90) - levels[index]
    quietest = min(levels[index] for index in range(_TONES) if np.any(tone == index))
    levels = np.minimum(levels, _LOUDEST * quietest)
    scatters = np.maximum(scatters, levels * 0.35) + 1e-12
    return levels[tone], scatters[tone]


def _blur(energies: list[FloatGrid], brightness: FloatGrid) -> FloatGrid:
    """Return the blur of each cell, px, from the finest two scales that both stand above the noise."""
    blur = np.full(brightness.shape, np.nan)
    noise = [_noise(energy, brightness) for energy in energies]
    for fine in range(len(_SCALES) - 1):
        coarse = fine + 1
        signal_f, signal_c = (energies[k] - noise[k][0] for k in (fine, coarse))
        seen = signal_c > _ABOVE * noise[coarse][1]
        with np.errstate(invalid="ignore", divide="ignore"):
            ratio = signal_f / signal_c
        # Steeper than any edge, and hardly above the noise: that is noise which is louder here.
        louder = (ratio > _STEEPEST) & (signal_f < _LOUDER * noise[fine][0])
        usable = seen & ~louder & (signal_f > _FINE_ABOVE * noise[fine][1]) & np.isnan(blur)
        blur[usable] = _sigma(ratio[usable], _SCALES[fine], _SCALES[coarse])
    return blur


def _sigma(ratio: FloatGrid, fine: float, coarse: float) -> FloatGrid:
    """Return the blur of an edge, px, whose energies at two scales, px, have a ratio: 1 for no end of blur."""
    squared = np.clip(ratio, 1 + 1e-6, None) ** 2
    found: FloatGrid = np.sqrt(np.clip((coarse**2 - squared * fine**2) / (squared - 1), 0.0, None))
    return np.minimum(found, 8 * coarse)


def _places(
    scores: FloatGrid, blur: FloatGrid, detail: FloatGrid, size: tuple[int, int], side: int
) -> tuple[Place, ...]:
    """Return the sharpest cells that are apart from each other, best first; of equals the one with more detail."""
    known = np.argwhere(~np.isnan(scores))
    order = sorted(
        known.tolist(), key=lambda at: (-round(float(scores[at[0], at[1]]), 2), -float(detail[at[0], at[1]]))
    )
    chosen: list[list[int]] = []
    for at in order:
        if all(math.hypot(at[0] - one[0], at[1] - one[1]) >= _APART for one in chosen):
            chosen.append(at)
        if len(chosen) == MOST_PLACES:
            break
    width, height = size
    return tuple(
        Place(
            x=(min((col + 1) * side, width) + col * side) / 2 / width,
            y=(min((row + 1) * side, height) + row * side) / 2 / height,
            score=round(float(scores[row, col]), 2), blur_px=float(blur[row, col]),
        )
        for row, col in chosen
    )  # fmt: skip
