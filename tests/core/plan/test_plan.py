import math

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from tests.core.strategies import blurs, focals
from welotrope.core.errors import ConflictError, OutOfRangeError, TooCloseError, UnreadableError
from welotrope.core.kit.body import Body
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.setup import Setup
from welotrope.core.optics import blur
from welotrope.core.optics.depth import FilmZone
from welotrope.core.optics.sharpness import ImageFormat, SharpnessStandard, Standard
from welotrope.core.optics.thin_lens import extension_at_film_distance
from welotrope.core.plan.scene_plan import FocusSchool, StopSchool, plan_scene
from welotrope.core.plan.setting import (
    Subject,
    ZonePlace,
    angle_with_far_limit,
    check_count,
    hyperfocal_angle,
    parse_subject_token,
    place_subjects,
    ring_setting,
    subject_token,
)
from welotrope.core.plan.zone import ZoneVerdict, clearest_stop, neighbouring_stops, plan_zone
from welotrope.core.units.exposure import FULL_STOPS
from welotrope.core.units.text import cleaned

LENS = Lens(name="Tarnholt 35", focal_mm=35, stops=(2.8, 4, 5.6, 8, 11, 16), closest_mm=400, throw_deg=160)
SETUP = Setup(body=Body("Ostrel 6", ImageFormat(36, 24, 6000)), lens=LENS)


@given(focals, blurs, st.floats(5, 100), st.floats(1.01, 100))
def test_marked_stop_holds_both_ends(f, c, near, ratio):
    near_x, far_x = (extension_at_film_distance(D * f, f) for D in (near, near * ratio))
    plan = plan_zone(near_x, far_x, f, c, FULL_STOPS)
    assume(plan.verdict is not ZoneVerdict.NO_STOP)
    assert plan.edge_blur <= c * 1.02 * (1 + 1e-9)
    wider = [stop for stop in FULL_STOPS if stop < plan.stop_marked]
    if wider:  # never a stop smaller than needed
        assert max(blur.defocus_blur(x, plan.focus_x, f, wider[-1]) for x in (near_x, far_x)) > c * 1.02


def test_no_marked_stop_reaches():
    plan = plan_zone(3.0, 0.0, 50, 0.03, (2, 16))
    assert plan.verdict is ZoneVerdict.NO_STOP
    assert plan.stop_marked == 16
    assert plan.edge_blur > 0.03


def test_diffraction_is_named_when_the_stop_that_holds_the_zone_is_past_it():
    plan = plan_zone(0.6, 0.0, 50, 0.012, (8, 16, 32))
    assert plan.verdict is ZoneVerdict.DIFFRACTION
    stop, total = clearest_stop(plan, 50, (8, 16, 32))
    assert stop == 16
    assert total == pytest.approx(math.hypot(0.3 / 16, 2.44 * 0.00055 * 16 * (1 + 0.3 / 50)), rel=0.01)


def test_near_beyond_far_is_refused():
    with pytest.raises(ConflictError, match="smaller than the far"):
        plan_zone(0.2, 0.5, 50, 0.03, FULL_STOPS)


def test_neighbours_are_one_stop_either_way():
    rows = neighbouring_stops(0.5, 8, 50, 0.03)
    assert [row.stop for row in rows] == [5.6, 8, 11]
    spreads = [row.limits.spread for row in rows]
    assert spreads == sorted(spreads)
    assert [row.diffraction_limited for row in neighbouring_stops(0.5, 22, 50, 0.03)] == [False, False, True]


def test_scene_is_held_and_every_subject_inside():
    subjects = (Subject("bench", 2100), Subject("doors", 6200))
    plan = plan_scene(SETUP, subjects)
    assert plan.zone.verdict is ZoneVerdict.MET
    assert {p.place for p in plan.placements} == {ZonePlace.INSIDE}
    assert plan.setting.near_mm <= 2100
    assert plan.setting.far_mm >= 6200
    wider = plan.rows[0].placements
    assert any(p.place is not ZonePlace.INSIDE for p in wider)


def test_scene_that_cannot_be_held_says_what_can():
    strict = Setup(body=SETUP.body, lens=LENS, standard=SharpnessStandard(kind=Standard.PIXEL, pixels=1))
    plan = plan_scene(strict, (Subject("rope", 600), Subject("shore", math.inf)))
    assert plan.zone.verdict is ZoneVerdict.NO_STOP
    possible = plan.nearest_possible
    assert possible is not None
    assert possible.stop == 16
    again = plan_scene(strict, (Subject("", possible.near_with_far_kept_mm), Subject("", math.inf)))
    assert again.zone.stop_exact == pytest.approx(16, rel=1e-6)
    again = plan_scene(strict, (Subject("", 600), Subject("", possible.far_with_near_kept_mm)))
    assert again.zone.stop_exact == pytest.approx(16, rel=1e-6)


def test_schools_of_focus_and_stop():
    subjects = (Subject("a", 2000), Subject("b", 5000))
    hyperfocal = plan_scene(SETUP, subjects, focus=FocusSchool.HYPERFOCAL)
    assert hyperfocal.setting.far_mm > 1e7
    assert plan_scene(SETUP, subjects, stop_rule=StopSchool.SMALLEST).setting.stop == 16
    balanced = plan_scene(SETUP, subjects, stop_rule=StopSchool.BALANCED)
    assert balanced.setting.stop == 11
    assert balanced.zone.balanced_stop == pytest.approx(13, abs=1.5)


@pytest.mark.parametrize(("near", "far", "stop"), [(1501, 6000, 11), (1000, 1010, 2.8)])
def test_a_need_within_two_hundredths_of_a_marked_stop_is_that_stop(near, far, stop):
    """Brute force: the widest marked stop of which some setting blurs neither end by more than 2 % over the standard."""
    c = SETUP.blur_mm
    vs = [35 + 35 * k / 40_000 for k in range(1, 4000)]

    def worst(v, N):
        return max(35 / N * abs(v - image) / image for image in (1 / (1 / 35 - 1 / (D - v)) for D in (near, far)))

    held = next(N for N in LENS.stops if min(worst(v, N) for v in vs) <= c * 1.02)
    plan = plan_scene(SETUP, (Subject("a", near), Subject("b", far)))
    assert plan.setting.stop == held == stop
    assert {p.place for p in plan.placements} == {ZonePlace.INSIDE}


@pytest.mark.parametrize(("need", "stop"), [(5.62, 5.6), (22.4, 22.0), (5.75, 8.0)])
def test_engraved_numbers_hold_what_lies_within_the_tolerance(need, stop):
    # From N = f(v₁ − v₂)/(c(v₁ + v₂)) with v₂ = f: the near end that needs just this stop.
    ratio = (1 + need * 0.03 / 50) / (1 - need * 0.03 / 50)
    plan = plan_zone(50 * ratio - 50, 0.0, 50, 0.03, FULL_STOPS)
    assert plan.stop_exact == pytest.approx(need)
    assert plan.stop_marked == stop
    assert plan.verdict is not ZoneVerdict.NO_STOP


@pytest.mark.parametrize("distance", [2000, math.inf])
def test_a_single_subject_can_be_planned_for(distance):
    plan = plan_scene(SETUP, (Subject("Ida", distance),))
    assert plan.setting.stop == 2.8
    assert plan.placements[0].place is ZonePlace.INSIDE


def test_scene_errors_name_the_subject():
    with pytest.raises(TooCloseError, match="Distance of rope: read"):
        plan_scene(SETUP, (Subject("rope", 200), Subject("b", 900)))
    with pytest.raises(ConflictError, match="near and a far"):
        plan_scene(SETUP, ())


def test_infinity_on_the_far_mark():
    setting = ring_setting(SETUP, hyperfocal_angle(SETUP, 8), 8)
    assert setting.far_mm > 1e7
    assert ring_setting(SETUP, hyperfocal_angle(SETUP, 8) + 0.1, 8).far_mm < 1e6
    assert setting.near_mm == pytest.approx(setting.focus_mm / 2, rel=0.02)


@given(st.floats(600, 1e5), st.sampled_from(LENS.stops))
def test_far_mark_lands_on_the_subject(far, stop):
    angle = angle_with_far_limit(SETUP, far, stop)
    assume(angle < LENS.helicoid().throw_deg)
    assert ring_setting(SETUP, angle, stop).far_mm == pytest.approx(far, rel=1e-6)


def test_places_and_how_far_off():
    near, inside, far, shore = place_subjects(
        [Subject("a", 900), Subject("b", 996), Subject("c", 2500), Subject("d", math.inf)],
        FilmZone(1400, 1000, 2000, 995, 2020),
    )
    assert (near.place, near.outside_mm) == (ZonePlace.TOO_NEAR, 100)
    assert (inside.place, inside.outside_mm) == (ZonePlace.INSIDE, 0)
    assert (far.place, far.outside_mm) == (ZonePlace.TOO_FAR, 500)
    assert (shore.place, shore.outside_mm) == (ZonePlace.TOO_FAR, math.inf)


@given(st.text(max_size=40).map(lambda t: " ".join(t.replace("@", " ").split())), st.floats(30, 1e6))
def test_subject_tokens_round_trip(name, distance):
    subject = parse_subject_token(subject_token(Subject(name, distance)))
    assert subject.name == cleaned(name).strip()
    assert subject.distance_mm == distance  # to the last bit


def test_subject_errors():
    assert parse_subject_token("shore@inf").distance_mm == math.inf
    with pytest.raises(UnreadableError, match="no distance"):
        parse_subject_token("Ida")
    with pytest.raises(OutOfRangeError, match="at most 12"):
        check_count(13)
