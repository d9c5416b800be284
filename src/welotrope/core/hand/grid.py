"""The grid over spread and bias of a hand on which what is believed of it is kept.

Rows are log spreads, columns biases, both in units of what an aid shows. Biases stand closer about zero, and about
where trials say that they are.
"""

from __future__ import annotations

import functools
import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from welotrope.core.hand.skill_trial import MissSide
from welotrope.core.optics.elementwise import FloatArray

_SPREADS, _MOST_BIAS, _CROWDED = (0.08, 12.0), 6.0, 2.2
LOG_SIGMAS: FloatArray = np.linspace(math.log(_SPREADS[0]), math.log(_SPREADS[1]), 84)
SIGMAS: FloatArray = np.exp(LOG_SIGMAS)
_ABOUT_ZERO: FloatArray = _MOST_BIAS * np.sinh(_CROWDED * np.linspace(-1, 1, 97)) / math.sinh(_CROWDED)
_ABOUT_OTHER: FloatArray = 3 * np.sinh(_CROWDED * np.linspace(-1, 1, 61)) / math.sinh(_CROWDED)
_FAR_FROM_ZERO, _ROUND_TO = 2.0, 0.5
_MISJUDGED = 0.02  # share of pictures in which the side is taken for another
_SPREAD_TAIL = 4.0
_TAIL = 3.0  # degrees of freedom of the bias beforehand: a fault of the kit makes large ones
_T3_HEIGHT = math.pi * math.sqrt(3) / 2
_CLASS_AT, _HEAVY_CLASSES = 0.1, 64
_STEP = 20.0  # classes of half windows, to a natural unit of their logarithm


@dataclass(frozen=True, eq=False)
class Grid:
    """The grid: biases of its columns, ascending, in units of what is shown."""

    biases: FloatArray

    @property
    def shape(self) -> tuple[int, int]:
        """Rows and columns, pure numbers."""
        return len(LOG_SIGMAS), len(self.biases)

    @cached_property
    def _widths(self) -> FloatArray:
        return np.asarray(np.gradient(self.biases))

    def beliefs(self, log_sigma_sd: float, bias_sd: float) -> FloatArray:
        """Return the log of the share of hands about the average eye: log spread about 0, bias about none.

        Both with the long tails of Student's t: some hands are three times as coarse, some kits far off.
        """
        tail = (_TAIL + 1) / 2 * np.log1p((self.biases / bias_sd) ** 2 / _TAIL)
        coarse = (_SPREAD_TAIL + 1) / 2 * np.log1p((LOG_SIGMAS[:, None] / log_sigma_sd) ** 2 / _SPREAD_TAIL)
        found: FloatArray = -coarse + (np.log(self._widths) - tail)[None, :]
        return found

    def measured(self, log_spreads: tuple[float, float], squares: tuple[float, float, float]) -> FloatArray:
        """Return the log likelihood of misses that were measured.

        Parameters
        ----------
        log_spreads
            Their weights summed, a pure number, and what is to be taken off for misses of when the spread was other.
        squares
            Weighted count, sum and sum of squares, in units of what is shown.
        """
        count, total, square = squares
        about = square - 2 * self.biases * total + self.biases**2 * count
        found: FloatArray = -log_spreads[0] * LOG_SIGMAS[:, None] - log_spreads[1] - about / (2 * SIGMAS[:, None] ** 2)
        return found

    def heavy(self, z: FloatArray, weights: FloatArray) -> FloatArray:
        """Return the log likelihood of misses under a law with heavy tails, Student's t of three degrees of freedom.

        Misses and weights in units of what is shown; they are gathered into classes, finer than any spread.
        """
        classes = np.arcsinh(z / _CLASS_AT)
        edges = np.linspace(classes.min() - 1e-9, classes.max() + 1e-9, _HEAVY_CLASSES + 1)
        held, _ = np.histogram(classes, bins=edges, weights=weights)
        sums, _ = np.histogram(classes, bins=edges, weights=weights * z)
        kept = held > 0
        middles, counts = sums[kept] / held[kept], held[kept]
        found = -float(counts.sum()) * (LOG_SIGMAS[:, None] + math.log(_T3_HEIGHT)) * np.ones(self.shape)
        for middle, count in zip(middles, counts, strict=True):
            found -= 2 * count * np.log1p(((middle - self.biases[None, :]) / SIGMAS[:, None]) ** 2 / 3)
        return found

    def heavy_chances(self, half_z: float, bias_z: float) -> FloatArray:
        """Return the chance of a hit, a fraction, of every hand of the grid, its misses having heavy tails."""
        at = self.biases[None, :] + bias_z
        return _t3_below((half_z - at) / SIGMAS[:, None]) - _t3_below((-half_z - at) / SIGMAS[:, None])

    @cached_property
    def _sided(self) -> dict[tuple[MissSide, int], FloatArray]:
        return {}

    def sided(self, side: MissSide, half: int) -> FloatArray:
        """Return the log likelihood (a pure number) of a miss of which only the side is known, by its half window."""
        if (side, half) not in self._sided:
            for one, share in zip(MissSide, self._shares(math.exp(half / _STEP)), strict=True):
                self._sided[one, half] = np.log(as_seen(share))
        return self._sided[side, half]

    def _shares(self, half_z: float) -> tuple[FloatArray, FloatArray, FloatArray]:
        from scipy.special import ndtr  # slow to import, so only where a hand is asked

        front = ndtr((-half_z - self.biases[None, :]) / SIGMAS[:, None])
        behind = ndtr((self.biases[None, :] - half_z) / SIGMAS[:, None])
        return front, np.clip(1 - front - behind, 0.0, 1.0), behind

    def chances(self, half_z: float, bias_z: float) -> FloatArray:
        """Return the chance of a hit of every hand of the grid, with a bias of the aid's own besides."""
        from scipy.special import ndtr

        at = self.biases[None, :] + bias_z
        found: FloatArray = ndtr((half_z - at) / SIGMAS[:, None]) - ndtr((-half_z - at) / SIGMAS[:, None])
        return found

    def spread_out(self, mass: FloatArray, log_sigma_sd: float, bias_sd: float) -> FloatArray:
        """Return what is believed of one set-up, as shares, from what is believed of all; they differ by so much."""
        rows, columns = self._kernels(log_sigma_sd, bias_sd)
        found: FloatArray = rows @ mass @ columns.T
        return found

    def seen_through(self, likelihood: FloatArray, log_sigma_sd: float, bias_sd: float) -> FloatArray:
        """Return what the likelihood of one set-up, in any one unit, tells of all: it differs by so much."""
        rows, columns = self._kernels(log_sigma_sd, bias_sd)
        found: FloatArray = rows.T @ likelihood @ columns
        return found

    def _kernels(self, log_sigma_sd: float, bias_sd: float) -> tuple[FloatArray, FloatArray]:
        """Kernels from column to row: each column sums to one.

        They have long tails, so that what one set-up shows plainly is believed to be its own.
        """
        rows = _tailed((LOG_SIGMAS[:, None] - LOG_SIGMAS[None, :]) / log_sigma_sd)
        columns = self._widths[:, None] * _tailed((self.biases[:, None] - self.biases[None, :]) / bias_sd)
        return rows / rows.sum(axis=0), columns / columns.sum(axis=0)


def _t3_below(z: FloatArray) -> FloatArray:
    """Share of Student's t with three degrees of freedom that lies below (Johnson and Kotz, ch. 27)."""
    scaled = z / math.sqrt(3)
    found: FloatArray = 0.5 + (scaled / (1 + scaled**2) + np.arctan(scaled)) / math.pi
    return found


def as_seen(share: FloatArray) -> FloatArray:
    """Return how often a side is told that is fallen on in a share of pictures: now and then another is seen.

    Parameters
    ----------
    share
        Share of pictures, 0 to 1, in which focus falls on the side.
    """
    found: FloatArray = (1 - 1.5 * _MISJUDGED) * share + _MISJUDGED / 2
    return found


def _tailed(apart: FloatArray) -> FloatArray:
    found: FloatArray = (1 + apart**2 / _TAIL) ** (-(_TAIL + 1) / 2)
    return found


def half_class(half_z: float) -> int:
    """Return the class of a half window, in units of what is shown: its logarithm in steps of a twentieth.

    Parameters
    ----------
    half_z
        Half the sharp window, in units of what is shown.
    """
    return round(_STEP * math.log(min(max(half_z, 1e-3), 1e3)))


def grid_about(middles: list[float]) -> Grid:
    """Return a grid that is fine about zero and about the middles of some trials, in units of what is shown.

    Parameters
    ----------
    middles
        Errors that the grid is to be fine about, in units of what is shown.
    """
    far = {round(middle / _ROUND_TO) * _ROUND_TO for middle in middles if abs(middle) > _FAR_FROM_ZERO}
    return _grid(tuple(sorted(far)))


@functools.lru_cache(16)
def _grid(centres: tuple[float, ...]) -> Grid:
    columns = [_ABOUT_ZERO, *(centre + _ABOUT_OTHER for centre in centres)]
    return Grid(np.unique(np.round(np.concatenate(columns), 3)))


def interval(values: FloatArray, weights: FloatArray, *, confidence: float = 0.95) -> tuple[float, float]:
    """Return the central interval that holds a fraction of the weight, in the unit of the values.

    Parameters
    ----------
    values
        Numbers in one unit.
    weights
        Weight of each value.
    confidence
        Share of the weight that the interval holds, 0 to 1.
    """
    order = np.argsort(values, axis=None)
    held = weights.ravel()[order]
    below = np.cumsum(held) - held / 2
    low, high = np.interp([(1 - confidence) / 2, (1 + confidence) / 2], below, values.ravel()[order])
    return float(low), float(high)
