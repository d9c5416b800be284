"""Means, proportions and mixtures of normal distributions, with honest intervals."""

from __future__ import annotations

import functools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from welotrope.core.optics.elementwise import FloatArray

if TYPE_CHECKING:
    from statistics import NormalDist

PRIOR_READINGS = 3
_REACH = 8.0  # standard deviations past the outermost component
_NEGLIGIBLE = 1e-7
_EXACT, _MOST_STEPS = 1e-9, 200  # of the narrowest part


def t_quantile(share: float, dof: float) -> float:
    """Return the quantile of Student's t with ``dof`` degrees of freedom; of the normal when infinite.

    Parameters
    ----------
    share
        Share of the distribution below, 0 to 1.
    dof
        Degrees of freedom; may be infinite.

    Examples
    --------
    >>> round(t_quantile(0.975, 9), 3)
    2.262
    """
    from scipy.special import ndtri, stdtrit  # slow to import, so only where a quantile is asked for

    return float(ndtri(share) if math.isinf(dof) else stdtrit(dof, share))


def mean_interval(values: Sequence[float], told: float) -> tuple[float, float]:
    """Return the mean of one reading or more and the half-width of its 95 % interval, in the unit of the values.

    ``told`` is the error of a reading as it is known beforehand, in the unit of the values; 0 for none, when two at
    least are needed.

    Parameters
    ----------
    values
        Numbers in one unit.
    told
        Error of one reading known beforehand, in the unit of the values; 0 for none.
    """
    mean = sum(values) / len(values)
    squares = sum((value - mean) ** 2 for value in values)
    prior = PRIOR_READINGS if told > 0 else 0
    dof = prior + len(values) - 1
    scatter = math.sqrt((prior * told**2 + squares) / dof)
    return mean, t_quantile(0.975, dof) * scatter / math.sqrt(len(values))


@dataclass(frozen=True)
class Mixture:
    """A mixture of normal distributions: ``weights`` sum to 1; ``means`` and ``sds`` are in one unit, shape (n,)."""

    weights: FloatArray
    means: FloatArray
    sds: FloatArray

    @classmethod
    def of(cls, weights: FloatArray, means: FloatArray, variances: FloatArray) -> Mixture:
        """Make a mixture from weights in any ratio, means and variances, leaving out what weighs nothing."""
        kept = weights > _NEGLIGIBLE * float(np.max(weights))
        share = weights[kept] / float(np.sum(weights[kept]))
        return cls(share, means[kept], np.sqrt(np.maximum(variances[kept], 1e-30)))

    @property
    def mean(self) -> float:
        """Mean, in the unit of the parts."""
        return float(self.weights @ self.means)

    def quantile(self, share: float) -> float:
        """Return the value, in the unit of the parts, below which ``share`` of the mixture lies.

        By Newton's method, and by halving where that leaves what is known to hold it or comes nearer too slowly.
        """
        from scipy.special import ndtr  # slow to import, so only where a quantile is asked for

        low = float(np.min(self.means - _REACH * self.sds))
        high = float(np.max(self.means + _REACH * self.sds))
        at, last = (low + high) / 2, math.inf
        least_step = max(_EXACT * float(np.min(self.sds)), 4 * math.ulp(max(abs(low), abs(high))))
        for _ in range(_MOST_STEPS):
            z = (at - self.means) / self.sds
            over = float(self.weights @ ndtr(z)) - share
            low, high = (low, at) if over >= 0 else (at, high)
            density = float(self.weights @ (np.exp(-z * z / 2) / self.sds)) / math.sqrt(2 * math.pi)
            step = over / density if density > 0 else math.inf
            if not low <= at - step <= high or abs(step) > last / 2:
                step = at - (low + high) / 2
            at, last = at - step, abs(step)
            if last <= least_step:
                break
        return at

    def interval(self, *, confidence: float = 0.95) -> tuple[float, float]:
        """Return the central interval, in the unit of the parts, that holds a fraction ``confidence`` of them."""
        return self.quantile((1 - confidence) / 2), self.quantile((1 + confidence) / 2)


@functools.cache
def _standard_normal() -> NormalDist:
    from statistics import NormalDist  # slow to import, so only where a chance is asked for

    return NormalDist()


@dataclass(frozen=True)
class Proportion:
    """A share of successes with its confidence interval; all between 0 and 1."""

    share: float
    low: float
    high: float


def wilson(successes: int, trials: int, *, confidence: float = 0.95) -> Proportion | None:
    """Return the Wilson score interval of a proportion, as fractions, or None with no trials.

    Source: Wilson, *J. Am. Stat. Assoc.* 22 (1927) 209.

    Parameters
    ----------
    successes
        How many of the trials hit.
    trials
        How many trials there were.
    confidence
        Share of the weight that the interval holds, 0 to 1.

    Examples
    --------
    >>> found = wilson(8, 10)
    >>> round(found.low, 3), round(found.high, 3)
    (0.49, 0.943)
    """
    if trials == 0:
        return None
    if not 0 <= successes <= trials:
        raise ValueError(f"successes must lie between 0 and {trials}, got {successes}")
    z = _standard_normal().inv_cdf(0.5 + confidence / 2)
    share = successes / trials
    centre = share + z * z / (2 * trials)
    half = z * math.sqrt(share * (1 - share) / trials + z * z / (4 * trials * trials))
    scale = 1 + z * z / trials
    low = 0.0 if successes == 0 else (centre - half) / scale
    return Proportion(share, low, 1.0 if successes == trials else (centre + half) / scale)


def chance_within(half_width: float, sigma: float, *, bias: float = 0.0) -> float:
    """Return the chance, a fraction, that a normal error (``bias``, ``sigma``) stays within ±``half_width``.

    All in one unit.

    ``Φ((w/2−bias)/σ) − Φ((−w/2−bias)/σ)``; with ``sigma`` 0 it is 1 or 0.

    Parameters
    ----------
    half_width
        Half the width of what counts as a hit.
    sigma
        Standard deviation of the error.
    bias
        Mean of the error.

    Examples
    --------
    >>> round(chance_within(1.0, 1.0), 4)  # one sigma either side
    0.6827
    """
    if sigma <= 0:
        return 1.0 if abs(bias) <= half_width else 0.0
    return _standard_normal().cdf((half_width - bias) / sigma) - _standard_normal().cdf((-half_width - bias) / sigma)
