"""How a hand changes: blocks of trials, before and after a change of the kit, and days that look like another hand."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from welotrope.core.hand.skill_estimate import Interval, SkillEstimate, estimate_skill
from welotrope.core.hand.skill_trial import SkillTrial

BLOCK, LEAST_TO_COMPARE = 10, 4
_LEAST_OF_A_DAY, _SURE = 6, 0.001
_NO_SCATTER = 1e-9  # squared, in what the aid shows


@dataclass(frozen=True, kw_only=True)
class TrialBlock:
    """Trials one after the other: the last of them counted from 1, and their spread in units of what is shown."""

    until: int
    spread: Interval


@dataclass(frozen=True, kw_only=True)
class SkillChange:
    """A hand before and after something, and the chance, 0 to 1, that its spread is smaller since."""

    before: SkillEstimate
    after: SkillEstimate
    finer: float

    @property
    def is_told(self) -> bool:
        """Whether the difference is more than chance."""
        return not 0.025 < self.finer < 0.975


def blocks(attempts: Sequence[SkillTrial]) -> tuple[TrialBlock, ...]:
    """Return the spread of each ten trials in order; a rest of fewer than half a block is left out.

    Parameters
    ----------
    attempts
        Trials, oldest first.
    """
    found = []
    for start in range(0, len(attempts), BLOCK):
        held = attempts[start : start + BLOCK]
        if len(held) >= BLOCK / 2:
            found.append(TrialBlock(until=start + len(held), spread=estimate_skill(_now(held)).spread))
    return tuple(found)


def _now(attempts: Sequence[SkillTrial]) -> list[SkillTrial]:
    return [replace(attempt, days_ago=0.0) for attempt in attempts]


def compared(before: Sequence[SkillTrial], after: Sequence[SkillTrial]) -> SkillChange | None:
    """Compare trials before and after something; None with fewer than four of either.

    Parameters
    ----------
    before
        Trials before the change.
    after
        Trials after the change.
    """
    if min(len(before), len(after)) < LEAST_TO_COMPARE:
        return None
    hands = estimate_skill(_now(before)), estimate_skill(_now(after))
    first, second = (hand.mass.sum(axis=1) for hand in hands)
    below = np.concatenate([[0.0], np.cumsum(second)[:-1]]) + second / 2
    return SkillChange(before=hands[0], after=hands[1], finer=float(first @ below))


def other_hands(by_day: Mapping[str, Sequence[SkillTrial]]) -> dict[str, float]:
    """Return the days whose trials hardly come from the same hand as the others, with how many times they scatter.

    By the F test of two variances (Snedecor and Cochran, *Statistical Methods*, ch. 6), at one in a thousand for all
    days together.

    Parameters
    ----------
    by_day
        Trials by day.
    """
    from scipy.special import fdtrc  # slow to import, so only where it is asked for

    found = {}
    for day, held in by_day.items():
        own = [attempt.z for attempt in held if attempt.z is not None]
        rest = [a.z for other, others in by_day.items() if other != day for a in others if a.z is not None]
        if min(len(own), len(rest)) < _LEAST_OF_A_DAY:
            continue
        of_day, of_rest = (float(np.var(one, ddof=1)) for one in (own, rest))
        if of_day <= _NO_SCATTER or of_rest <= _NO_SCATTER:  # all read alike: the reading was too coarse to tell
            continue
        ratio = of_day / of_rest
        counts = (len(own), len(rest)) if ratio > 1 else (len(rest), len(own))
        if fdtrc(counts[0] - 1, counts[1] - 1, max(ratio, 1 / ratio)) < _SURE / (2 * len(by_day)):
            found[day] = math.sqrt(ratio)
    return found
