"""How the plane is put on a mark beforehand: with the finest aid that works there, and by whose hand."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from welotrope.core.aids.advice import AidVerdict, judge_aids
from welotrope.core.aids.handling import Situation
from welotrope.core.hand.skill_estimate import DrawnSkill, SkillEstimate
from welotrope.core.kit.aids.models import Eye
from welotrope.core.kit.setup import Setup

_DRAWN = 200


@dataclass(frozen=True, kw_only=True)
class Placed:
    """With what the plane is put on a mark.

    Parameters
    ----------
    verdict
        The aid, judged there.
    hands
        Hands that may have done it, their bias and spread in half windows of defocus, positive behind.
    focusing
        Chance that it was focused at all, and was no slip.
    """

    verdict: AidVerdict
    hands: tuple[DrawnSkill, ...]
    focusing: float

    @property
    def trials(self) -> int:
        """On how many trials it rests; none for the average eye."""
        return self.verdict.hand.trials if self.verdict.hand else 0


def placed_on(
    setup: Setup, distance_mm: float, stop: float, eye: Eye, *, hands: Mapping[str, SkillEstimate] | None = None
) -> Placed | None:
    """Return how the plane is put on a mark at a distance, mm from the film plane; None where no aid shows it.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    distance_mm
        Distance in mm; infinity allowed.
    stop
        F-number, 0.5 to 128.
    eye
        Constants of the eye and of the aids; those of an average eye where none are given.
    hands
        What is known of the photographer's hand, by tag of the aid; None for an average one.

    Raises
    ------
    TooCloseError, OutOfRangeError
        When the ring does not reach the distance.
    """
    ring = setup.ring(stop)
    angle = ring.clamp(float(ring.angle_at_distance(ring.check_reach(distance_mm, field="distance"))))
    situation = Situation(setup, stop, setup.view_stop(stop), angle)
    best = next(iter(judge_aids(situation, eye=eye, hands=hands)), None)
    if best is None or not best.usable:
        return None
    half, hand = situation.sight.half_window_mm, best.hand
    if hand is None:
        model = DrawnSkill(best.aid_bias_mm / half, best.defocus_mm / half, heavy=False)
        return Placed(verdict=best, hands=(model,), focusing=1.0)
    unit, off = best.defocus_mm / half, best.aid_bias_mm / half
    drawn = tuple(DrawnSkill(off + one.bias_z * unit, one.spread_z * unit, one.heavy) for one in hand.drawn(_DRAWN))
    return Placed(verdict=best, hands=drawn, focusing=hand.focusing)
