"""What a photographer's own rounds say: how far off the hand leaves the ring, in what the picture could show.

A round is scored as ``z = error/δ_shown``, both in extension: the error divided by what the picture in the finder
could resolve. ``z`` is free of stop, distance and lens, so rounds pool; a hand's spread with a real aid is ``σ_z·δ``.

The average eye (``σ_z`` 1, bias 0) is where one starts from; own rounds draw away from it, as many as
``practice_least`` weighing half. The interval of a chance comes from the posterior of ``(σ_z, bias)`` on a grid, with
``σ_z`` log-normal about 1 and the bias normal about 0 beforehand (Gelman et al., *Bayesian Data Analysis*, ch. 3).
"""

from __future__ import annotations

import functools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from welotrope.core.optics.elementwise import FloatArray
from welotrope.core.stats.proportions import Proportion, chance_within

HALF_WEIGHT = 8.0
_SPREAD_FACTOR, _BIAS_SD = 1.9, 0.6  # wider than the hands one meets, so that a few rounds do not promise too much
_SLIP, _LEAST_SPREAD, _LEAST_TO_JUDGE = 6.0, 0.25, 5
_NO_FOCUSING = 12.0  # times what the picture shows: six times the spread of a coarse hand


@dataclass(frozen=True)
class Skill:
    """What rounds with an aid say.

    Parameters
    ----------
    mean_z, spread_z
        Mean of the rounds and their root mean square about it, in units of what was shown; positive behind.
    rounds
        How many rounds.
    slips
        How many lay so far off that they were no focusing at all; they are stated, and no chance is taken of them.
    half_weight
        How many rounds weigh as much as the average eye.
    """

    mean_z: float
    spread_z: float
    rounds: int
    slips: int = 0
    half_weight: float = HALF_WEIGHT

    @property
    def own_weight(self) -> float:
        """Weight of the own rounds against the average eye, a fraction."""
        kept = self.rounds - self.slips
        return kept / (kept + self.half_weight)

    @property
    def bias_z(self) -> float:
        """Bias to reckon with, times δ: that of the rounds, drawn towards none."""
        return self.own_weight * self.mean_z

    @property
    def sigma_z(self) -> float:
        """Spread to reckon with, times δ: that of the rounds, drawn towards the average eye."""
        return math.exp(self.own_weight * math.log(max(self.spread_z, 0.02)))

    def chance(self, half_window: float, defocus: float, bias: float = 0.0) -> Proportion:
        """Chance of a hit, slips apart, and its 95 % interval, as fractions.

        Parameters
        ----------
        half_window, defocus, bias
            Half the sharp window, the aid's own δ and what the aid itself is always off by, in one unit.
        """
        share = chance_within(half_window, self.sigma_z * defocus, bias + self.bias_z * defocus)
        if defocus <= 0:
            return Proportion(share, share, share)
        weights, sigmas, biases = _posterior(self.rounds - self.slips, self.mean_z, self.spread_z)
        low, high = _weighted_interval(weights, _chances(half_window / defocus, sigmas, biases + bias / defocus))
        return Proportion(share, min(low, share), max(high, share))


@functools.lru_cache(64)
def _posterior(kept: int, mean_z: float, spread_z: float) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Weights, spreads and biases over a grid, for a number of rounds with a mean and a spread."""
    log_sigma, bias = np.meshgrid(np.linspace(-2.6, 2.6, 79), np.linspace(-2.4, 2.4, 61), indexing="ij")
    sigma = np.exp(log_sigma)
    squares = kept * (spread_z**2 + (mean_z - bias) ** 2)
    logs = -kept * log_sigma - squares / (2 * sigma**2)
    logs -= (log_sigma / math.log(_SPREAD_FACTOR)) ** 2 / 2 + (bias / _BIAS_SD) ** 2 / 2
    weights = np.exp(logs - np.max(logs)).ravel()
    return weights / np.sum(weights), sigma.ravel(), bias.ravel()


def skill_of(scores: Sequence[float], half_weight: float = HALF_WEIGHT) -> Skill | None:
    """Return what rounds with these scores ``z`` (misses, times δ) say; None without any that is no slip.

    A slip lies farther off than any hand that focuses, or, in five rounds or more, more than six scaled median
    deviations from the median.

    Examples
    --------
    >>> skill = skill_of([0.4, -0.2, 0.9, 0.1, -0.6, 0.3, 0.0, -0.4])
    >>> skill.rounds, skill.slips
    (8, 0)
    """
    count = len(scores)
    scores = [score for score in scores if abs(score) <= _NO_FOCUSING]
    if not scores:
        return None
    middle = float(np.median(scores))
    spread = 1.4826 * float(np.median([abs(score - middle) for score in scores]))
    limit = _SLIP * max(spread, _LEAST_SPREAD) if len(scores) >= _LEAST_TO_JUDGE else math.inf
    kept = [score for score in scores if abs(score - middle) <= limit]
    mean = sum(kept) / len(kept)
    square = sum((score - mean) ** 2 for score in kept) / len(kept)
    return Skill(mean, math.sqrt(square), count, count - len(kept), half_weight)


def _chances(half: float, sigmas: FloatArray, biases: FloatArray) -> FloatArray:
    from scipy.special import ndtr  # slow to import, so only where a hand is asked

    return np.asarray(ndtr((half - biases) / sigmas) - ndtr((-half - biases) / sigmas))


def _weighted_interval(weights: FloatArray, values: FloatArray) -> tuple[float, float]:
    order = np.argsort(values)
    below = np.cumsum(weights[order])
    low, high = np.searchsorted(below, [0.025, 0.975])
    return float(values[order[low]]), float(values[order[min(high, len(order) - 1)]])
