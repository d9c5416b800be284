"""What a photographer's own trials say: scatter and bias of where the ring was left."""

from __future__ import annotations

import math
import statistics
from collections.abc import Sequence
from dataclasses import dataclass

from welotrope.core.stats.means import mean_interval
from welotrope.core.stats.proportions import chance_within

_SLIP, _LEAST_SPREAD_DEG, _LEAST_TO_JUDGE = 6.0, 0.2, 5


@dataclass(frozen=True)
class Skill:
    """Scatter and bias in ring degrees, positive behind the subject, from so many trials.

    ``bias_deg`` is 0 unless the 95 % interval of the mean leaves zero out; the scatter is then about zero.
    ``slips`` trials lay so far from the others that they were no focusing at all; they count as misses only.
    """

    sigma_deg: float
    bias_deg: float
    trials: int
    slips: int = 0

    def chance(self, window_deg: float) -> float:
        """Chance of a hit within a window of this width, slips counted as misses."""
        kept = 1 - self.slips / self.trials
        return kept * chance_within(window_deg / 2, self.sigma_deg, self.bias_deg)


def skill_of(errors_deg: Sequence[float]) -> Skill | None:
    """Return what trials with these errors in ring degrees say; None with fewer than two that are no slips.

    A slip lies more than six scaled median deviations from the median, in five trials or more.
    """
    middle = statistics.median(errors_deg) if errors_deg else 0.0
    spread = 1.4826 * statistics.median(abs(error - middle) for error in errors_deg) if errors_deg else 0.0
    limit = _SLIP * max(spread, _LEAST_SPREAD_DEG) if len(errors_deg) >= _LEAST_TO_JUDGE else math.inf
    kept = [error for error in errors_deg if abs(error - middle) <= limit]
    if len(kept) < 2:
        return None
    mean, half = mean_interval(kept, 0.0)
    bias = mean if abs(mean) > half else 0.0
    squares = sum((error - bias) ** 2 for error in kept)
    spent = 1 if bias else 0
    return Skill(math.sqrt(squares / (len(kept) - spent)), bias, len(errors_deg), len(errors_deg) - len(kept))
