import math
from dataclasses import replace

import pytest

from tests.core.plan.kit import ALL, setup
from tests.core.plan.test_zone_set import blur_at
from welotrope.core.exposure.holding import HOLDING_BY_ID
from welotrope.core.plan.light_plan import Breaks, Circumstances, plan_light
from welotrope.core.plan.setting import ring_setting

SUNNY = Circumstances(ev=14.6, iso=100, most_iso=3200, holding=HOLDING_BY_ID["hand"], speed=1.4)


@pytest.mark.parametrize("index", ALL)
@pytest.mark.parametrize("ev", [14.6, 9.0, 3.0])
def test_every_row_exposes_the_scene_and_says_what_breaks(index, ev):
    made = setup(index)
    asked = replace(SUNNY, ev=ev, most_iso=100 if made.body.is_film else 3200)
    plan = plan_light(made, 3_000.0, 9_000.0, asked)
    ring = made.ring()
    m = float(ring.extension_at_angle(plan.angle_deg)) / ring.focal_mm
    for row in plan.rows:
        exposed = math.log2((row.stop * (1 + m)) ** 2 / row.shutter_s) - math.log2(row.iso / 100)
        assert exposed == pytest.approx(ev, abs=1e-6)
        setting = ring_setting(made, plan.angle_deg, row.stop)
        sharp = max(blur_at(made, setting, mm) for mm in (3_000.0, 9_000.0)) <= made.blur_mm * 1.02
        assert row.holds == sharp
        moves, shakes = row.blur_mm > made.blur_mm * 1.27, row.shutter_s > plan.held_s * 1.27
        if row.breaks is Breaks.NOTHING:
            assert sharp
            assert not moves
            assert not shakes
        assert (row.breaks in (Breaks.MOVEMENT, Breaks.SHAKE)) == (moves or shakes)


def test_the_iso_goes_no_higher_than_said_and_no_higher_than_needed():
    plan = plan_light(setup(0), 2_000.0, 5_000.0, SUNNY)
    for row in plan.rows:
        assert 100 <= row.iso <= 3200
        assert row.iso == 100 or row.iso == 3200 or row.shutter_s == pytest.approx(row.slowest_s, rel=1e-6)


def test_fixed_iso_and_too_little_light_names_the_ways_out_lightest_first():
    made = setup(2)
    plan = plan_light(made, 1_500.0, 4_000.0, replace(SUNNY, ev=8.5, iso=400, most_iso=400, speed=0.4))
    assert plan.best.breaks is not Breaks.NOTHING
    enough = [way for way in plan.ways_out if way.enough]
    assert [way.burden for way in enough] == sorted(way.burden for way in enough)
    assert any("Push the film" in way.what for way in plan.ways_out)
    assert any("instead of setting a zone" in way.what for way in plan.ways_out)
    opened = next(way for way in plan.ways_out if way.what.startswith("Open up"))
    assert opened.left.short_stops == 0
    assert opened.left.stop < plan.wanted.stop


def test_a_tripod_and_a_still_subject_take_any_shutter():
    still = replace(SUNNY, ev=-2, speed=0.0, holding=HOLDING_BY_ID["tripod"])
    plan = plan_light(setup(0), 3_000.0, 4_000.0, still)
    assert math.isinf(plan.held_s)
    assert math.isinf(plan.frozen_s)
    assert plan.best.breaks is Breaks.NOTHING
    assert plan.best.iso == 100


def test_film_in_the_dark_needs_longer_than_the_meter_says():
    still = replace(SUNNY, ev=-2, speed=0.0, iso=100, most_iso=100, holding=HOLDING_BY_ID["tripod"], exponent=1.3)
    plain = replace(still, exponent=None)
    with_failure, without = (plan_light(setup(2), 3_000.0, 4_000.0, one).best for one in (still, plain))
    assert with_failure.shutter_s == pytest.approx(without.shutter_s**1.3, rel=1e-9)


def test_snow_in_the_sun_with_a_fast_film_is_too_bright():
    plan = plan_light(setup(2), 3_000.0, 3_500.0, replace(SUNNY, ev=16, iso=3200, most_iso=3200, speed=0.0))
    assert plan.rows[0].breaks is Breaks.BRIGHT


def test_a_whole_stop_of_light_moves_the_shutter_by_a_stop():
    less, more = (plan_light(setup(2), 2_000.0, 5_000.0, replace(SUNNY, ev=ev, most_iso=100)) for ev in (10, 11))
    for one, other in zip(less.rows, more.rows, strict=True):
        assert one.shutter_s == pytest.approx(2 * other.shutter_s)
