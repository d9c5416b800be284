"""Normal mixtures: what is believed of a number when several explanations of the data stay possible."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from welotrope.core.halving import where_it_ends
from welotrope.core.optics.elementwise import FloatArray

_REACH = 8.0  # standard deviations past the outermost component
_NEGLIGIBLE = 1e-7


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
        """Return the value, in the unit of the parts, below which ``share`` of the mixture lies, by halving."""
        from scipy.special import ndtr  # slow to import, so only where a quantile is asked for

        low = float(np.min(self.means - _REACH * self.sds))
        high = float(np.max(self.means + _REACH * self.sds))
        return where_it_ends(lambda at: float(self.weights @ ndtr((at - self.means) / self.sds)) < share, low, high)

    def interval(self, *, confidence: float = 0.95) -> tuple[float, float]:
        """Return the central interval, in the unit of the parts, that holds a fraction ``confidence`` of them."""
        return self.quantile((1 - confidence) / 2), self.quantile((1 + confidence) / 2)
