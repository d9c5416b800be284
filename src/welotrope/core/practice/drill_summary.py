"""What a session of a drill says: for which stops a hand is consistent, whether it drifts, and how one guesses."""

from __future__ import annotations

import datetime as dt
import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from welotrope.core.hand.skill_estimate import Interval, SkillEstimate, estimate_skill
from welotrope.core.hand.skill_trial import SkillTrial
from welotrope.core.kit.aids.models import AVERAGE_EYE, Eye
from welotrope.core.kit.setup import Setup, resolved
from welotrope.core.practice.drills import DrillTrial, attempt_of
from welotrope.core.stats import Proportion, t_quantile

ENOUGH = 0.9  # of trials within the window, for which a hand is called consistent enough
LEAST_TO_SAY, LEAST_FOR_DRIFT = 3, 5
RANGES_MM = (1500.0, 3000.0, 6000.0)


@dataclass(frozen=True, kw_only=True)
class ApertureChance:
    """A stop: half its window in degrees of ring, and the chance that this hand leaves the ring within it."""

    stop: float
    half_deg: float
    chance: Proportion

    @property
    def enough(self) -> bool:
        """Whether nine in ten are expected within."""
        return self.chance.share >= ENOUGH


@dataclass(frozen=True, kw_only=True)
class RangeRow:
    """Guesses of one range of distances, mm: how many, the hand of them, and the share it is counted in."""

    low_mm: float
    high_mm: float
    count: int
    hand: SkillEstimate
    share: float

    @property
    def too_far(self) -> float:
        """What a guess is too far by on the mean, a share of the distance."""
        return math.expm1(self.hand.bias_z * self.share)

    @property
    def give_or_take(self) -> float:
        """How much guesses scatter, a share of the distance."""
        return self.hand.sigma_z * self.share


def attempts_of(trials: Sequence[DrillTrial]) -> list[SkillTrial]:
    """Return trials of a session as they feed the model of the hand.

    Parameters
    ----------
    trials
        Trials of a session, oldest first.
    """
    return [attempt_of(trial) for trial in trials if not trial.at_stop and trial.is_scored]


def consistent_for(
    setup: Setup, aid: str, distance_mm: float, trials: Sequence[DrillTrial], *, eye: Eye = AVERAGE_EYE
) -> tuple[ApertureChance, ...]:
    """Return for every marked stop how likely this hand leaves the ring within the window, mm from the film plane.

    Focused as in the trials, that is at their stop, the picture being taken at another.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    aid
        Tag of the aid.
    distance_mm
        Distance in mm; infinity allowed.
    trials
        Trials of a session, oldest first.
    eye
        Constants of the eye and of the aids; those of an average eye where none are given.
    """
    hand = estimate_skill(attempts_of(trials))
    focused_at = next((trial.stop for trial in trials if trial.stop is not None), setup.lens.widest)
    shown = resolved(
        setup, aid, distance_mm, focused_at, light=trials[0].light if trials else DrillTrial.light, eye=eye
    )
    rows = []
    for stop in setup.lens.stops:
        half = resolved(setup, aid, distance_mm, stop, eye=eye).half_mm
        chance = hand.chance(half, shown.defocus_mm)
        rows.append(ApertureChance(stop=stop, half_deg=half * shown.degrees_per_defocus, chance=chance))
    return tuple(rows)


def drift(values: Sequence[float]) -> Interval | None:
    """Return how values change from trial to trial, in the unit of the values; None with fewer than five.

    Source: Draper and Smith, *Applied Regression Analysis*, ch. 1.

    Parameters
    ----------
    values
        Numbers in one unit.

    Examples
    --------
    >>> drift([0.0, 1.1, 1.9, 3.0, 4.1, 5.0]).is_told
    True
    """
    count = len(values)
    if count < LEAST_FOR_DRIFT:
        return None
    middle_at, mean = (count - 1) / 2, sum(values) / count
    across = sum((at - middle_at) ** 2 for at in range(count))
    slope = sum((at - middle_at) * (value - mean) for at, value in enumerate(values)) / across
    left = sum((value - mean - slope * (at - middle_at)) ** 2 for at, value in enumerate(values))
    half = t_quantile(0.975, count - 2) * math.sqrt(left / (count - 2) / across)
    return Interval(slope, slope - half, slope + half)


def streak(days: set[dt.date], today: dt.date) -> int:
    """Return for how many days on end it was done, up to today or yesterday.

    Parameters
    ----------
    days
        Days on which it was done.
    today
        The day of today.

    Examples
    --------
    >>> streak({dt.date(2026, 3, 31), dt.date(2026, 4, 1)}, dt.date(2026, 4, 2))
    2
    """
    day = today if today in days else today - dt.timedelta(days=1)
    count = 0
    while day in days:
        count, day = count + 1, day - dt.timedelta(days=1)
    return count


def guess_ranges(trials: Sequence[DrillTrial], *, eye: Eye = AVERAGE_EYE) -> tuple[RangeRow, ...]:
    """Return the guesses by range of the true distance, and of all together first; empty without any.

    Parameters
    ----------
    trials
        Trials of a session, oldest first.
    eye
        Constants of the eye and of the aids; those of an average eye where none are given.
    """
    guesses = [trial for trial in trials if trial.z is not None and trial.distance_mm is not None]
    ends = (0.0, *RANGES_MM, math.inf)
    bands = [(0.0, math.inf), *pairwise(ends)]
    rows = []
    for low, high in bands:
        held = [trial for trial in guesses if low <= (trial.distance_mm or 0.0) < high]
        if held:
            hand = estimate_skill(attempts_of(held))
            rows.append(RangeRow(low_mm=low, high_mm=high, count=len(held), hand=hand, share=eye["distance_guess"]))
    return tuple(rows)
