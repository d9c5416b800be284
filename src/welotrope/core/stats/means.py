"""The mean of a few readings and how sure it is.

The reading error known beforehand counts as a few readings of its own (a scaled inverse chi-square prior on the
variance: Gelman et al., *Bayesian Data Analysis*, ch. 3), so that readings that happen to agree are not taken as exact.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

PRIOR_READINGS = 3


def t_quantile(share: float, dof: float) -> float:
    """Return the quantile of Student's t with ``dof`` degrees of freedom; of the normal when infinite.

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
    """
    mean = sum(values) / len(values)
    squares = sum((value - mean) ** 2 for value in values)
    prior = PRIOR_READINGS if told > 0 else 0
    dof = prior + len(values) - 1
    scatter = math.sqrt((prior * told**2 + squares) / dof)
    return mean, t_quantile(0.975, dof) * scatter / math.sqrt(len(values))
