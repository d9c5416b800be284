"""Proportions with honest intervals, and the normal distribution."""

from __future__ import annotations

import functools
import math
from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from statistics import NormalDist


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

    Examples
    --------
    >>> round(chance_within(1.0, 1.0), 4)  # one sigma either side
    0.6827
    """
    if sigma <= 0:
        return 1.0 if abs(bias) <= half_width else 0.0
    return _standard_normal().cdf((half_width - bias) / sigma) - _standard_normal().cdf((-half_width - bias) / sigma)
