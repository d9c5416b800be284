"""Straight lines through readings, how sure they are, and which reading does not belong.

Ordinary least squares of y on x (Draper and Smith, *Applied Regression Analysis*, ch. 1 and 8). Discordant
readings are found by the generalised extreme studentised deviate test (Rosner, *Technometrics* 25 (1983) 165)
on deleted residuals, with the reading error told beforehand counted as a few readings of its own.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from welotrope.core.optics.elementwise import FloatArray

PRIOR_READINGS = 3


@dataclass(frozen=True)
class LineFit:
    """The line ``y = intercept + slope·x``.

    Parameters
    ----------
    intercept, slope
        In units of y and of y/x.
    scatter
        Standard deviation of a reading about the line, units of y.
    dof
        Degrees of freedom behind ``scatter``; infinite when it was told and not estimated.
    mean_x, spread_x
        Mean of x and sum of its squared deviations.
    count
        Number of readings.
    """

    intercept: float
    slope: float
    scatter: float
    dof: float
    mean_x: float
    spread_x: float
    count: int

    @property
    def slope_half(self) -> float:
        """Half-width of the 95 % interval of the slope."""
        return t_quantile(0.975, self.dof) * self.scatter / math.sqrt(self.spread_x)

    def half_at(self, x: float) -> float:
        """Half-width of the 95 % interval of the line at ``x``, units of y."""
        share = 1 / self.count + (x - self.mean_x) ** 2 / self.spread_x
        return t_quantile(0.975, self.dof) * self.scatter * math.sqrt(share)


def fit_line(x: FloatArray, y: FloatArray, told: float | None = None) -> LineFit:
    """Fit a line to at least two readings at different x.

    Parameters
    ----------
    x, y
        The readings, shape (n,).
    told
        Reading error in units of y when it is known; it then stands for the scatter unless the readings
        scatter clearly more. Without it three readings are the least that show a scatter; two give an
        infinite one.
    """
    mean = float(np.mean(x))
    spread = float(np.sum((x - mean) ** 2))
    slope = float(np.sum((x - mean) * (y - np.mean(y))) / spread)
    intercept = float(np.mean(y)) - slope * mean
    rest = y - intercept - slope * x
    dof = len(x) - 2
    seen = math.sqrt(float(rest @ rest) / dof) if dof > 0 else math.inf
    if told is not None and (dof == 0 or not _clearly_more(seen, told, dof)):
        return LineFit(intercept, slope, told, math.inf, mean, spread, len(x))
    return LineFit(intercept, slope, seen, max(dof, 1), mean, spread, len(x))


def discordant(x: FloatArray, y: FloatArray, error: float, level: float = 0.01) -> list[int]:
    """Return the indices of readings that do not belong to the line of the others, worst first.

    Parameters
    ----------
    x, y
        The readings, shape (n,); fewer than four are never judged, at most a third can be discordant.
    error
        Reading error expected beforehand, units of y.
    level
        Chance of naming any when all belong.
    """
    left = list(range(len(x)))
    candidates: list[int] = []
    found = 0
    for _ in range(min((len(x) - 2) // 2, max(len(x) // 3, 1)) if len(x) >= 4 else 0):
        deleted, dof = _deleted_residuals(x[left], y[left], error)
        worst = int(np.argmax(np.abs(deleted)))
        limit = t_quantile(1 - level / (2 * len(left)), dof)
        candidates.append(left.pop(worst))
        if abs(deleted[worst]) > limit:
            found = len(candidates)
    return candidates[:found]


def bends(x: FloatArray, y: FloatArray, level: float = 0.01) -> bool:
    """Return whether a cubic (a parabola under seven readings) fits clearly better than a line, by an F test."""
    degree, dof = _curve_degree(len(x))
    if dof < 1:
        return False
    line, curve = (_squares(x, y, power) for power in (1, degree))
    if curve <= 1e-18 * max(line, 1e-300):
        return line > 1e-12
    from scipy.special import fdtrc

    return bool(fdtrc(degree - 1, dof, (line - curve) / (degree - 1) / (curve / dof)) < level)


def curve_scatter(x: FloatArray, y: FloatArray) -> float:
    """Return the standard deviation about the curve that :func:`bends` tries; infinite with too few readings."""
    degree, dof = _curve_degree(len(x))
    return math.sqrt(_squares(x, y, degree) / dof) if dof > 0 else math.inf


def t_quantile(share: float, dof: float) -> float:
    """Return the quantile of Student's t with ``dof`` degrees of freedom; of the normal when infinite."""
    from scipy.special import ndtri, stdtrit  # slow to import, so only where a quantile is asked for

    return float(ndtri(share) if math.isinf(dof) else stdtrit(dof, share))


def mean_interval(values: Sequence[float], told: float) -> tuple[float, float]:
    """Return the mean and the half-width of its 95 % interval; a single value has the error told, twice over."""
    mean = sum(values) / len(values)
    if len(values) < 2:
        return mean, 2 * told
    scatter = math.sqrt(sum((value - mean) ** 2 for value in values) / (len(values) - 1))
    return mean, t_quantile(0.975, len(values) - 1) * scatter / math.sqrt(len(values))


def _clearly_more(seen: float, told: float, dof: int) -> bool:
    """Whether the scatter seen would be a one-in-a-thousand chance if the error told were right."""
    from scipy.special import chdtrc

    return bool(chdtrc(dof, dof * (seen / told) ** 2) < 0.001)


def _deleted_residuals(x: FloatArray, y: FloatArray, error: float) -> tuple[FloatArray, float]:
    """Return each reading's residual from the line of the others, in standard errors, with their freedom."""
    deviations = x - np.mean(x)
    spread = float(deviations @ deviations)
    leverage = np.minimum(1 / len(x) + deviations**2 / spread, 1 - 1e-9)
    slope = float(deviations @ (y - np.mean(y))) / spread
    rest = y - np.mean(y) - slope * deviations
    others = np.maximum(float(rest @ rest) - rest**2 / (1 - leverage), 0.0)
    dof = len(x) - 3 + PRIOR_READINGS
    scatter = np.sqrt((PRIOR_READINGS * error**2 + others) / dof)
    return rest / (scatter * np.sqrt(1 - leverage)), float(dof)


def _curve_degree(count: int) -> tuple[int, int]:
    degree = 3 if count >= 7 else 2
    return degree, count - degree - 1


def _squares(x: FloatArray, y: FloatArray, degree: int) -> float:
    scaled = (x - np.mean(x)) / (np.ptp(x) or 1.0)
    rest = y - np.polyval(np.polyfit(scaled, y, degree), scaled)
    return float(rest @ rest)
