"""What to practise next: where the chance of a hit is expected to grow most, or is known least.

A hand is taken to get finer with practice by the power law of learning, ``σ ∝ (n + 10)^−0.2`` (Newell and Rosenbloom,
in *Cognitive Skills and their Acquisition*, 1981, for the law; the figures are chosen here), and to lose its bias.
"""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.hand.skill_estimate import SkillEstimate
from welotrope.core.stats.proportions import chance_within

MORE = 20
_BEGUN, _POWER = 10.0, 0.2
_KNOWING = 0.25  # what a narrower interval is worth of what a surer hit is
_LEAST_GAIN = 0.01


@dataclass(frozen=True, kw_only=True)
class AidAtHand:
    """An aid with the hand one has with it: its tag and name, half the sharp window and what it shows, mm."""

    aid: str
    name: str
    hand: SkillEstimate
    half_mm: float
    defocus_mm: float


@dataclass(frozen=True, kw_only=True)
class Suggestion:
    """An exercise: with which aid, what for, and the chance of a hit now and as it is expected after 20 trials."""

    aid: str
    name: str
    why: str
    now: float
    then: float


def _why(hand: SkillEstimate) -> str:
    """Say what about the hand makes more practice worth it."""
    if hand.trials < MORE / 2:
        return "there are few trials with it so far"
    if hand.bias.is_told:
        return f"focus tends to fall {'behind' if hand.bias_z > 0 else 'in front'}"
    return "your results still scatter"


def suggestions(aids: list[AidAtHand]) -> list[Suggestion]:
    """Return what is worth practising, the most first; without what would gain nothing."""
    worth = []
    for one in aids:
        found = one.hand.chance(one.half_mm, one.defocus_mm)
        finer = ((one.hand.trials + _BEGUN + MORE) / (one.hand.trials + _BEGUN)) ** -_POWER
        then = chance_within(one.half_mm, one.hand.sigma_z * finer * one.defocus_mm)
        then = max(then, found.share)
        why = _why(one.hand)
        gain = then - found.share + _KNOWING * (found.high - found.low)
        if gain >= _LEAST_GAIN:
            worth.append((gain, Suggestion(aid=one.aid, name=one.name, why=why, now=found.share, then=then)))
    return [suggestion for _, suggestion in sorted(worth, key=lambda pair: -pair[0])]
