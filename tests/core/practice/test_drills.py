"""Drills: throws nobody foresees and that balance, trials scored on a ring worked by hand, and what is set aside."""

import datetime as dt
import math
from collections import Counter
from dataclasses import replace

import numpy as np
import pytest

from tests.core.plan.kit import setup
from welotrope.core.errors import WelotropeError
from welotrope.core.hand.skill_estimate import estimate_skill
from welotrope.core.hand.skill_trial import MissSide, SkillTrial
from welotrope.core.kit.aids.viewing_optics import LightLevel
from welotrope.core.practice import drill_readings
from welotrope.core.practice.drill_summary import consistent_for, drift, guess_ranges
from welotrope.core.practice.drills import DrillId, DrillTrial, distance_of, throw_of
from welotrope.core.practice.exercises import AidAtHand, suggestions
from welotrope.core.practice.trial import TrialEvidence, why_aside

NOW = dt.datetime(2026, 3, 14, 12)


@pytest.mark.parametrize("seed", ["a", "b", "session"])
def test_throws_balance_and_cannot_be_foreseen(seed):
    throws = [throw_of(seed, index) for index in range(60)]
    assert Counter(throw.to_infinity for throw in throws) == {True: 30, False: 30}
    assert len(set(Counter(throws).values())) == 1
    orders = {tuple(throw_of(f"{seed}{n}", index) for index in range(6)) for n in range(30)}
    assert len(orders) > 20
    assert min(throw.half_windows for throw in throws) > 3  # focus has to be found


def test_distances_stay_within_reach_and_all_come():
    found = [distance_of("s", index, 900.0) for index in range(10)]
    assert set(found) == {1000.0, 1500.0, 2000.0, 3000.0, 5000.0}
    assert distance_of("s", 3, 9000.0) == 9000.0


def test_a_tape_trial_is_the_turn_over_what_the_aid_shows():
    """By hand: the Norrvik moves x_max over 230°; the live view 6 000 px wide at 12× shows two pixels of blur."""
    one = setup(0)
    base = DrillTrial(drill=DrillId.TAPE, aid="magnified", stop=1.4, distance_mm=2000.0)
    found = drill_readings.on_the_ring(one, base, 1.0)
    per_degree = (50 * 50 / (object_of(450) - 50)) / 230
    shown = 2 * 0.006 * 1.4 * (1 + 50 / (object_of(2000) - 50))
    assert found.z == pytest.approx(per_degree / shown, rel=0.02)
    assert (found.side, drill_readings.on_the_ring(one, base, 30.0).side) == ("hit", "behind")
    assert drill_readings.on_the_ring(one, base, -30.0).side == "front"
    assert drill_readings.on_the_ring(one, base, 1.0, left_deg=0.0).at_stop
    assert not drill_readings.on_the_ring(one, base, 1.0, left_deg=80.0).at_stop


def object_of(film_mm, f=50.0):
    """Distance from the principal plane of what is so far from the film: s + v = film, 1/s + 1/v = 1/f."""
    return (film_mm + math.sqrt(film_mm**2 - 4 * f * film_mm)) / 2


def test_leaning_nearer_than_the_ring_was_set_leaves_the_plane_behind():
    base = DrillTrial(drill=DrillId.LEAN, aid="magnified", stop=1.4, distance_mm=980.0)
    near, far = (drill_readings.by_lean(setup(0), replace(base, distance_mm=mm), 1000.0) for mm in (980.0, 1020.0))
    assert near.z > 0 > far.z
    assert drill_readings.by_lean(setup(0), replace(base, distance_mm=1000.0), 1000.0).z == pytest.approx(0, abs=1e-6)


def test_a_guess_is_scored_in_proportion():
    far, near = (drill_readings.guessed(DrillId.GUESS, mm, 2000.0, LightLevel.BRIGHT) for mm in (2300.0, 2000.0 / 1.15))
    assert far.z == pytest.approx(-near.z)
    assert far.z == pytest.approx(math.log(1.15) / 0.15)
    with pytest.raises(WelotropeError, match="cannot be guessed"):
        drill_readings.guessed(DrillId.GUESS, math.inf, 2000.0, LightLevel.BRIGHT)


def test_consistent_for_the_stops_whose_window_holds_the_hand():
    """Trials that scatter by 1° about the mark: 9 in 10 lie within ±1.64°, so for windows from there on."""
    one = setup(0)
    base = DrillTrial(drill=DrillId.TAPE, aid="magnified", stop=1.4, distance_mm=2000.0, against="line")
    errors = np.random.default_rng(3).normal(0, 1.0, 120)
    rows = consistent_for(one, "magnified", 2000.0, [drill_readings.on_the_ring(one, base, float(e)) for e in errors])
    for row in rows:
        inside = np.mean(np.abs(errors - errors.mean()) <= row.half_deg)
        assert row.chance.share == pytest.approx(inside, abs=0.06)
        assert row.chance.low <= row.chance.share <= row.chance.high
    assert [row.enough for row in rows] == sorted(row.enough for row in rows)


def test_drift_is_told_from_scatter():
    rng = np.random.default_rng(4)
    assert drift([0.1 * k + float(rng.normal(0, 0.2)) for k in range(20)]).is_told
    fooled = sum(drift(rng.normal(0, 1, 12).tolist()).is_told for _ in range(200))
    assert fooled <= 20  # 5 in 100, and three standard errors
    assert drift([1.0, 2.0]) is None


def test_guesses_by_range():
    rng = np.random.default_rng(5)
    near = [
        drill_readings.guessed(DrillId.GUESS, 1000 * math.exp(rng.normal(0.2, 0.05)), 1000.0, LightLevel.BRIGHT)
        for _ in range(30)
    ]
    far = [
        drill_readings.guessed(DrillId.GUESS, 9000 * math.exp(rng.normal(-0.2, 0.05)), 9000.0, LightLevel.BRIGHT)
        for _ in range(30)
    ]
    whole, first, last = guess_ranges([*near, *far])
    assert (whole.count, first.count, last.count) == (60, 30, 30)
    assert first.too_far == pytest.approx(0.22, abs=0.04)
    assert last.too_far == pytest.approx(-0.18, abs=0.04)
    assert tuple(row.hand.bias.is_told for row in (first, last, whole)) == (True, True, False)


@pytest.mark.parametrize(
    ("change", "reason"),
    [
        ({}, ""),
        ({"person": "Mats"}, "somebody else’s hand"),
        ({"scored": False}, "not noted then"),
        ({"in_degrees": True, "measured_at": NOW}, "measured again"),
        ({"in_degrees": False, "measured_at": NOW}, ""),
        ({"at_stop": True}, "end of its travel"),
    ],
)
def test_what_is_set_aside_is_named(change, reason):
    said = why_aside(TrialEvidence(taken_at=NOW, **change))
    assert reason in said
    assert bool(said) == bool(reason)


def test_what_is_hardly_known_is_practised_first_and_what_cannot_gain_never():
    rng = np.random.default_rng(6)
    known = estimate_skill([SkillTrial(z=float(z)) for z in rng.normal(0, 0.5, 200)])
    sure = AidAtHand(aid="split_image", name="Split image", hand=known, half_mm=5.0, defocus_mm=1.0)
    new = AidAtHand(aid="peaking", name="Peaking", hand=estimate_skill([]), half_mm=1.0, defocus_mm=1.0)
    off = replace(
        sure, aid="matte", half_mm=1.0, hand=estimate_skill([SkillTrial(z=float(z)) for z in rng.normal(1.5, 0.5, 60)])
    )
    found = suggestions([sure, new, off])
    assert [one.aid for one in found] == ["matte", "peaking"]
    assert "behind" in found[0].why
    assert all(one.then >= one.now for one in found)


def test_a_side_is_scored_by_the_window_it_was_seen_in():
    base = DrillTrial(drill=DrillId.DAILY, aid="magnified", stop=2.0, distance_mm=2000.0)
    found = drill_readings.by_side(setup(0), base, MissSide.FRONT)
    wider = drill_readings.by_side(setup(0), replace(base, stop=1.4), MissSide.FRONT)
    assert (found.side, found.z) == ("front", None)
    assert found.half_z == pytest.approx(
        wider.half_z, rel=0.02
    )  # a live view shows as much more as the window is wider
