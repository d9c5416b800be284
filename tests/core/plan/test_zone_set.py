import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.plan.kit import ALL, setup
from tests.core.plan.ray_trace import blur_on_film, image_height
from welotrope.core.errors import ConflictError
from welotrope.core.hand.skill_estimate import estimate_skill
from welotrope.core.hand.skill_trial import SkillTrial
from welotrope.core.plan.compare import compare
from welotrope.core.plan.own_measures import OwnMeasures, guess_by_hand, guess_chance
from welotrope.core.plan.zone_set import guess_rows, remembered_zones, school_rows, waist_views, zones_between


def blur_at(made, setting, distance):
    """Blur of a thing at a distance with the ring left at a setting, traced."""
    ring = made.ring(setting.stop)
    v = ring.focal_mm + float(ring.extension_at_angle(setting.angle_deg))
    return blur_on_film(distance - v - ring.h_mm, v, ring.focal_mm, setting.stop)


@pytest.mark.parametrize("index", ALL)
@pytest.mark.parametrize("count", [1, 2, 3])
def test_zones_of_the_kit_leave_no_gap(index, count):
    made = setup(index)
    for stop in made.lens.stops:
        zones = remembered_zones(made, stop, count)
        far = min(zones[0].setting.far_mm, 1e6)
        everywhere = np.geomspace(zones[-1].setting.near_mm * 1.0005, far * 0.9995, 120)
        worst = max(min(blur_at(made, zone.setting, mm) for zone in zones) for mm in everywhere)
        assert worst <= made.blur_mm * 1.002, (stop, worst)
        assert all(0 <= zone.setting.angle_deg <= made.known.true.throw_deg for zone in zones)
        assert len(zones) == count or zones[-1].at_end


@pytest.mark.parametrize("index", [0, 1, 2, 5])
def test_what_a_zone_frames_is_imaged_at_the_picture_s_edge(index):
    made = setup(index)
    (zone,) = remembered_zones(made, made.lens.stops[-2], 1, far_mm=8_000.0)
    ring = made.ring(zone.setting.stop)
    v = ring.focal_mm + float(ring.extension_at_angle(zone.setting.angle_deg))
    for frame in zone.frames:
        edge = image_height(frame.width_mm / 2, frame.distance_mm - v - ring.h_mm, v)
        assert edge == pytest.approx(-made.body.image.width_mm / 2, rel=1e-6)


def test_the_widest_stop_that_does_it_is_found_and_none_wider_does():
    made = setup(0)
    zones = zones_between(made, 1_500.0, math.inf, 2)
    stop = zones[0].setting.stop
    assert zones[-1].setting.near_mm <= 1_500.0 * 1.001
    wider = [one for one in made.lens.stops if one < stop]
    assert all(remembered_zones(made, one, 2)[-1].setting.near_mm > 1_500.0 for one in wider)


@pytest.mark.parametrize(
    ("near", "far", "count", "words"),
    [
        (1_200.0, math.inf, 2, "3 settings would do it"),
        (3_000.0, 2_000.0, 2, "at or beyond far"),
        (460.0, math.inf, 1, "reach in to"),
    ],
)
def test_a_zone_no_stop_covers_says_what_would(near, far, count, words):
    with pytest.raises(ConflictError, match=words):
        zones_between(setup(0), near, far, count)


@given(believed=st.floats(500, 10_000), share=st.floats(0.03, 0.4), near=st.floats(0.4, 0.95), far=st.floats(1.05, 3))
def test_the_chance_of_a_guess_by_guessing_twenty_thousand_times(believed, share, near, far):
    rng = np.random.default_rng(3)
    true = believed * np.exp(share * rng.standard_normal(20_000))
    counted = np.mean((true >= near * believed) & (true <= far * believed))
    assert guess_chance(believed, near * believed, far * believed, share) == pytest.approx(counted, abs=0.02)


@given(
    believed=st.floats(500, 10_000), spread=st.floats(0.5, 2), bias=st.floats(-1, 1), near=st.floats(0.4, 0.95),
    far=st.floats(1.05, 3),
)  # fmt: skip
@settings(max_examples=25)
def test_the_chance_of_ones_own_guesses_by_guessing_again(believed, spread, bias, near, far):
    """400 guesses of a hand that is off by a share; then as many again, and those that hold are counted."""
    rng = np.random.default_rng(7)
    known = estimate_skill([SkillTrial(z=float(z)) for z in rng.normal(bias, spread, 400)])
    true = believed / np.exp(0.15 * rng.normal(bias, spread, 20_000))
    counted = np.mean((true >= near * believed) & (true <= far * believed))
    said = guess_by_hand(believed, near * believed, far * believed, 0.15, known)
    assert said.share == pytest.approx(counted, abs=0.06)
    assert said.low - 0.04 <= counted <= said.high + 0.04


def test_infinity_is_never_misjudged():
    assert guess_by_hand(math.inf, 5_000.0, math.inf, 0.15, estimate_skill([])).share == 1.0
    assert guess_by_hand(math.inf, 5_000.0, 20_000.0, 0.15, estimate_skill([])).share == 0.0


def test_each_subject_takes_the_zone_it_is_likeliest_sharp_in():
    zones = remembered_zones(setup(1), 8, 2)
    near, far = guess_rows(zones, (600.0, 5_000.0), 0.15, estimate_skill([]))
    assert (near.zone, far.zone) == (2, 1)
    assert far.chance.share > 0.99


def test_schools_differ_as_they_say():
    rows = {row.school: row for row in school_rows(setup(0), 8, 2, math.inf)}
    assert rows["smallest aperture"].near_mm < rows["the lens’s sharpest aperture"].near_mm
    assert rows["film criterion"].near_mm < rows["print criterion"].near_mm < rows["pixel criterion"].near_mm


def test_a_camera_at_the_waist_tilted_up_needs_more_room_for_feet():
    zone = remembered_zones(setup(1), 8, 1)[0]
    level, tilted = (row for row in waist_views(setup(1), zone, 1_050) if not row.upright)
    assert tilted.figure_from_mm > level.figure_from_mm
    assert tilted.high_mm > level.high_mm


@pytest.mark.parametrize(
    ("mm", "words"),
    [
        (650, "1 arm-length"),
        (325, "½ arm-length"),
        (1_600, "eye to the ground at your feet"),
        (2_250, "3 paces"),
        (math.inf, ""),
    ],
)
def test_own_measures(mm, words):
    assert OwnMeasures(650, 750, 1_600, 1_050).words(mm) == words


def test_comparing_the_kit_both_ends_are_just_sharp_at_the_exact_stop():
    for row, index in zip(compare([setup(i) for i in ALL], 2_000.0, 6_000.0, 8), ALL, strict=True):
        made = setup(index)
        ring = made.ring()
        v = ring.focal_mm + float(ring.extension_at_distance(row.focus_mm))
        ends = [blur_on_film(mm - v - ring.h_mm, v, ring.focal_mm, row.stop_exact) for mm in (2_000.0, 6_000.0)]
        assert max(ends) == pytest.approx(made.blur_mm, rel=0.02)
        assert row.equivalent_mm == pytest.approx(made.lens.focal_mm * 43.27 / made.body.image.diagonal_mm, rel=1e-3)


def test_a_lens_that_cannot_go_so_near_says_so():
    (row,) = compare([setup(4)], 500.0, 900.0, 8)
    assert row.problem
