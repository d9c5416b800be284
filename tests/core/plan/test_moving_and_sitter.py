import math

import numpy as np
import pytest

from tests.core.plan.kit import setup
from tests.core.plan.test_zone_set import blur_at
from welotrope.core.errors import OutOfRangeError, TooCloseError
from welotrope.core.plan.moving import MovingAsked, plan_moving, reaction_of
from welotrope.core.plan.setting import ring_setting
from welotrope.core.plan.sitter import FACE_PARTS, plan_sitter
from welotrope.core.plan.trap import TrapHand

HAND = TrapHand(reaction_s=0.25, spread_s=0.06, presses=10)


def asked(**changes):
    values = {
        "distance_mm": 30_000.0, "stop": 4, "speed": 5.0, "angle_deg": 10.0, "receding": False, "rate": 8.0,
        "lag_s": 0.06, "hand": HAND, "burst_s": 1.0, "turn_s": 1.5,
    }  # fmt: skip
    return MovingAsked(**(values | changes))


def test_a_boat_is_followed_from_station_to_station():
    """The boat rows in at its speed; at each press it is where the plan says, and what is exposed is sharp."""
    made = setup(4)
    plan = plan_moving(made, asked())
    closing = 5_000 * math.cos(math.radians(10))
    assert len(plan.stations) >= 3
    clock, place = 0.0, plan.first.trap.press_at_mm
    for before, station in zip((None, *plan.stations), plan.stations, strict=False):
        if before is not None:
            waited = (place - before.setting.near_mm) / closing
            clock, place = clock + waited + station.seconds, before.setting.near_mm - closing * station.seconds
            assert station.seconds >= 1.5 - 1e-6
            assert station.turn_deg > 0
        assert place == pytest.approx(station.trap.press_at_mm, abs=1)
        at_exposure = place - closing * 0.31
        assert blur_at(made, station.setting, at_exposure) <= made.blur_mm * 1e-3 + 1e-6
        place = at_exposure


def test_going_away_there_is_one_station_and_across_none():
    assert len(plan_moving(setup(4), asked(receding=True)).stations) == 1
    with pytest.raises(OutOfRangeError, match="no nearer"):
        plan_moving(setup(4), asked(angle_deg=90.0))
    with pytest.raises(TooCloseError):
        plan_moving(setup(4), asked(distance_mm=900.0))


def test_a_walker_with_a_wide_lens_cannot_be_missed():
    plan = plan_moving(setup(1), asked(distance_mm=3_000.0, stop=8, speed=1.4, angle_deg=0.0))
    assert plan.chances.single.share > 0.99


@pytest.mark.parametrize(
    ("index", "distance", "stop", "sway"), [(0, 900.0, 1.4, 17.0), (4, 3_000.0, 4, 12.0), (2, 700.0, 2.8, 20.0)]
)
def test_the_chance_against_sway_by_swaying_ten_thousand_times(index, distance, stop, sway):
    made = setup(index)
    plan = plan_sitter(made, distance, stop, sway, 0.0)
    rng = np.random.default_rng(5)
    at = plan.setting.focus_mm + sway * rng.standard_normal(10_000)
    sharp = np.mean([blur_at(made, plan.setting, mm) <= made.blur_mm for mm in at])
    assert plan.chance.share == pytest.approx(sharp, abs=0.015)
    assert plan.chance.low <= plan.chance.share <= plan.chance.high


def test_what_of_a_face_fits_is_what_a_sweep_over_settings_finds():
    made = setup(0)
    plan = plan_sitter(made, 1_400.0, 2.8, 10.0, 1 / 6)
    ring = made.ring()
    angles = np.linspace(float(ring.angle_at_distance(1_700.0)), float(ring.angle_at_distance(1_380.0)), 130)
    for row, part in zip(plan.parts, FACE_PARTS, strict=True):
        ends = (1_400.0, 1_400.0 - part.depth_mm if part.before else 1_400.0 + part.depth_mm)
        holding = [
            stop for stop in made.lens.stops
            if any(
                max(blur_at(made, ring_setting(made, float(a), stop), mm) for mm in ends) <= made.blur_mm * 1.03
                for a in angles
            )
        ]  # fmt: skip
        assert row.stop == min(holding)
        assert (row.from_mm <= 1_400.0 * 1.001) == (row.stop <= 2.8) == (row.fits or row.plane_mm is not None)
        on_the_eye = ring_setting(made, float(ring.angle_at_distance(1_400.0)), 2.8)
        assert row.fits == (blur_at(made, on_the_eye, ends[1]) <= made.blur_mm)
        if row.plane_mm is not None:
            moved = ring_setting(made, float(ring.angle_at_distance(row.plane_mm)), 2.8)
            ends = (1_400.0, 1_400.0 + part.depth_mm)
            assert max(blur_at(made, moved, mm) for mm in ends) <= made.blur_mm * 1.021


def test_a_whole_face_behind_the_eye_needs_the_plane_behind_it():
    """Checked apart: 50 mm, f/2.8 at 1.40 m reaches 5 cm before and 6 cm behind the eye; a face is 12 cm deep."""
    plan = plan_sitter(setup(0), 1_400.0, 2.8, 10.0, 1 / 6)
    face = plan.parts[-1]
    assert (plan.behind_mm, face.part.depth_mm) == (pytest.approx(61, abs=3), 120)
    assert not face.fits


def test_turning_the_camera_moves_the_plane_off_a_near_eye_only():
    near, far = (plan_sitter(setup(0), mm, 1.4, 10.0, 0.25).turned for mm in (460.0, 2_000.0))
    third = plan_sitter(setup(0), 500.0, 1.4, 10.0, 1 / 6).turned
    assert not near.inside
    assert far.inside
    assert third.angle_deg == pytest.approx(math.degrees(math.atan(6 / 56.3)), abs=0.3)
    assert plan_sitter(setup(0), 900.0, 1.4, 10.0, 0.0).turned.behind_mm == 0


def test_a_reaction_from_presses():
    rng = np.random.default_rng(11)
    told = [f"{1000 * one:.1f}" for one in 0.24 + 0.05 * rng.standard_normal(100)]
    found = reaction_of([*told[:97], "5", "4000", "30"])
    assert found.median_s == pytest.approx(0.24, abs=0.015)
    assert found.spread_s == pytest.approx(0.05, abs=0.015)
    assert found.presses == 97
    assert found.constants["reaction_presses"] == 97
    with pytest.raises(OutOfRangeError, match="too few count"):
        reaction_of(["10", "20", "250", "240"])
