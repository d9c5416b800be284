"""Least squares that outliers move little, with the sandwich estimate of how uncertain they are.

The sandwich (Huber, White) asks of the model only that it fit alike everywhere; clustered (Liang and Zeger), it holds
where all that was measured on one sheet is off together.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Grid = NDArray[np.float64]
_ROBUST = 3.0  # residuals, in units of their scatter, from which on they count less
_STEP, _MOST_STEPS = 1e-5, 80


@dataclass(frozen=True, kw_only=True)
class RobustFit:
    """Parameters, their covariance, shape (n, n), and what they leave of each measured value."""

    params: Grid
    covariance: Grid
    left: Grid

    def error(self, slope: Grid) -> float:
        """Return the standard error of what grows with the parameters by a slope, shape (n,), in units of that."""
        return math.sqrt(max(float(slope @ self.covariance @ slope), 0.0))


def robust_fit(
    residuals: Callable[[Grid], Grid], begin: Grid, unit: Grid, *, measured: int, groups: NDArray[np.int_] | None = None
) -> RobustFit:
    """Fit parameters.

    Parameters
    ----------
    residuals
        What parameters leave, in units of its scatter: of measured values first, then of what is known beforehand.
    begin, unit
        Where to begin, and how far parameters may be expected to go, shape (n,).
    measured
        How many residuals are of measured values.
    groups
        Which of them are off together, shape (measured,); each alone when left out.
    """
    from scipy.optimize import least_squares

    def scaled(params: Grid) -> Grid:
        return residuals(params * unit)

    params = least_squares(scaled, begin / unit, loss="soft_l1", f_scale=_ROBUST, max_nfev=_MOST_STEPS).x
    base, count = scaled(params), len(begin)
    slope = np.stack(
        [(scaled(params + h) - scaled(params - h)) / (2 * _STEP) for h in _STEP * np.eye(count)], axis=-1
    )  # fmt: skip
    eased = 1 / np.sqrt(1 + (base / _ROBUST) ** 2)
    bread = np.linalg.pinv((eased[:, None] * slope).T @ slope, hermitian=True)
    scores = (eased * base)[:, None] * slope
    told = _summed(scores[:measured], groups)
    free = min(count - (len(base) - measured), len(told) - 1)  # parameters that nothing was known of
    told *= math.sqrt(len(told) / max(len(told) - free, 1))
    # What is known beforehand is so uncertain as it is said to be, wherever it came out.
    every = np.concatenate((told, slope[measured:]))
    covariance = (bread @ (every.T @ every) @ bread) * np.outer(unit, unit)
    return RobustFit(params=params * unit, covariance=covariance, left=base[:measured])


def _summed(scores: Grid, groups: NDArray[np.int_] | None) -> Grid:
    if groups is None:
        return scores.copy()
    return np.stack([scores[groups == one].sum(axis=0) for one in np.unique(groups)])
