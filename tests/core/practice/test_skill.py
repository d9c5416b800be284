"""What rounds say of a hand: pooled scores, drawn towards the average eye, with intervals that simulated hands keep to."""

import math

import numpy as np
import pytest

from welotrope.core.practice.skill import Skill, skill_of
from welotrope.core.stats.proportions import chance_within


def test_eight_rounds_weigh_as_much_as_the_average_eye():
    coarse = Skill(mean_z=1.0, spread_z=4.0, rounds=8)
    assert coarse.own_weight == 0.5
    assert coarse.sigma_z == pytest.approx(2.0)  # midway between 1 and 4 by ratio
    assert coarse.bias_z == pytest.approx(0.5)
    assert Skill(1.0, 4.0, 24).own_weight == pytest.approx(0.75)


def test_slips_are_stated_and_take_nothing_from_any_chance():
    scores = [0.5, -0.6, 0.4, -0.3, 0.2, -0.5, 0.6, -0.2]
    clean, slipped = skill_of(scores), skill_of([*scores, -49.0])
    assert slipped.spread_z == pytest.approx(clean.spread_z)
    assert (slipped.slips, slipped.rounds) == (1, 9)
    for half in (0.3, 1.0, 6.0):
        assert slipped.chance(half, 1.0).share == pytest.approx(clean.chance(half, 1.0).share)
    assert slipped.chance(6.0, 1.0).high > 0.99
    assert skill_of([0.1, 30.0]).slips == 1


def test_three_accidental_releases_overturn_nothing():
    """Alone they say nothing; among a few true rounds they leave the chance where those put it."""
    accidents = [25.0, 31.0, 28.0]
    assert skill_of(accidents) is None
    true = [0.4, -0.7]
    assert skill_of([*accidents, *true]).chance(1.5, 1.0).share == pytest.approx(skill_of(true).chance(1.5, 1.0).share)
    assert skill_of([]) is None


def test_a_record_made_at_f8_promises_no_hits_at_f1_4():
    """The same scores: a window of six δ is kept, one of a sixth is not."""
    skill = skill_of(list(np.random.default_rng(1).normal(0, 1.2, 30)))
    wide, narrow = skill.chance(6.0, 1.0), skill.chance(1 / 6, 1.0)
    assert wide.low > 0.98
    assert narrow.high < 0.3
    assert wide.low <= wide.share <= wide.high


def hands(kind, rng):
    if kind == "met":
        return math.exp(rng.normal(0, math.log(1.5))), rng.normal(0, 0.3)
    return {"fine": (0.5, 0.0), "coarse": (2.0, 0.0), "biased": (1.0, 0.6)}[kind]


@pytest.mark.parametrize("kind", ["met", "fine", "coarse", "biased"])
@pytest.mark.parametrize("rounds", [3, 8, 30])
def test_the_interval_of_a_chance_covers(kind, rounds):
    """300 simulated photographers each: what a hand truly hits lies in the stated interval 93 times in 100 or more."""
    rng = np.random.default_rng(rounds)
    kept = 0
    for _ in range(300):
        sigma, bias = hands(kind, rng)
        skill = skill_of(rng.normal(bias, sigma, rounds).tolist())
        half = float(rng.choice([0.3, 0.7, 1.2, 2.5, 6.0]))
        stated = skill.chance(half, 1.0)
        truth = chance_within(half, sigma, bias)
        kept += stated.low - 0.005 <= truth <= stated.high + 0.005
    assert kept / 300 >= 0.92  # 0.93 less one standard error of 300
