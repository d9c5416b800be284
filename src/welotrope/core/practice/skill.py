"""What a photographer's own trials say: scatter and bias of where the ring was left."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from welotrope.core.stats.regression import mean_interval


@dataclass(frozen=True)
class Skill:
    """Scatter and bias in ring degrees, positive behind the subject, from so many trials.

    ``bias_deg`` is 0 unless the 95 % interval of the mean leaves zero out; the scatter is then about zero.
    """

    sigma_deg: float
    bias_deg: float
    trials: int


def skill_of(errors_deg: Sequence[float]) -> Skill | None:
    """Return what trials with these errors in ring degrees say; None with fewer than two."""
    if len(errors_deg) < 2:
        return None
    mean, half = mean_interval(errors_deg, 0.0)
    bias = mean if abs(mean) > half else 0.0
    squares = sum((error - bias) ** 2 for error in errors_deg)
    spent = 1 if bias else 0
    return Skill(math.sqrt(squares / (len(errors_deg) - spent)), bias, len(errors_deg))
