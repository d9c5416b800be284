"""A trap for a subject that hardly moves hits as often as the aid that puts the plane there: one chance on all pages."""

from dataclasses import replace

import numpy as np
import pytest

from tests.core.plan.kit import ALL, setup
from welotrope.core.aids.advice import judge_aids
from welotrope.core.aids.handling import Situation
from welotrope.core.aids.placing import placed_on
from welotrope.core.hand.skill_estimate import estimate_skill
from welotrope.core.hand.skill_trial import SkillTrial
from welotrope.core.kit.aids.models import AVERAGE_EYE
from welotrope.core.kit.aids.registry import every_kind
from welotrope.core.plan.moving import MovingAsked, plan_moving
from welotrope.core.plan.trap import TrapHand

STILL = MovingAsked(
    distance_mm=5_000.0, stop=5.6, speed=1e-3, angle_deg=0.0, receding=False, rate=3.0, lag_s=0.0,
    hand=TrapHand(reaction_s=0.2, spread_s=0.01, presses=50, speed_share=0.0), burst_s=1.0, turn_s=1.0,
)  # fmt: skip


def trained():
    rng = np.random.default_rng(3)
    return {
        kind.tag: estimate_skill([SkillTrial(z=float(z)) for z in rng.normal(0.3, 0.9, 25)]) for kind in every_kind()
    }


@pytest.mark.parametrize("index", ALL)
@pytest.mark.parametrize(("distance_mm", "stop"), [(5_000.0, 5.6), (6_000.0, 5.6), (7_000.0, 8.0), (3_000.0, 2.8)])
@pytest.mark.parametrize("hands", ["average eye", "own"])
def test_a_still_subject_is_hit_as_often_as_aids_says(index, distance_mm, stop, hands):
    made = setup(index)
    stop = max(stop, made.lens.widest)
    own = trained() if hands == "own" else None
    ring = made.ring(stop)
    if not ring.closest_mm <= distance_mm <= ring.farthest_mm:
        pytest.skip("out of this ring's reach")
    placed = placed_on(made, distance_mm, stop, AVERAGE_EYE, hands=own)
    angle = ring.clamp(float(ring.angle_at_distance(distance_mm)))
    told = judge_aids(Situation(made, stop, made.view_stop(stop), angle), eye=AVERAGE_EYE, hands=own)[0]
    hand = replace(STILL.hand, placed=placed.hands, focusing=placed.focusing)
    asked = replace(STILL, distance_mm=distance_mm, stop=stop, hand=hand)
    assert plan_moving(made, asked).chances.single.share == pytest.approx(told.hit_chance, abs=0.01)
