"""Rings worked out from readings that a ring of known make would give."""

import math

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from tests.core.strategies import rings
from welotrope.core.errors import WelotropeError
from welotrope.core.ring.calibration import Model, calibrate
from welotrope.core.ring.curved_ring import CurvedRing
from welotrope.core.ring.helicoid import Helicoid
from welotrope.core.ring.survey import Kind, Point, Start, Survey, Use, Way

METRES = (0.45, 0.5, 0.6, 0.8, 1.2, 2.0, 4.0, math.inf)
TRUE = Helicoid(50, 10.8, 220, start_mm=-0.06)


def readings(ring, metres=METRES, off=None):
    """Points as read off a ring, some of them ``off`` by degrees."""
    angles = [float(ring.angle_at_distance(m * 1000)) + (off or {}).get(m, 0.0) for m in metres]
    return tuple(Point(angle, m * 1000) for angle, m in zip(angles, metres, strict=True))


def scattered(seed, error=0.5, metres=METRES, ring=TRUE):
    rng = np.random.default_rng(seed)
    return readings(ring, metres, {m: rng.normal(0, error) for m in metres})


@given(rings(), st.floats(-0.3, 0.3))
def test_exact_readings_give_the_ring_back(ring, error):
    moved = ring.moved(error)
    assume(abs(moved.infinity_deg) < ring.throw_deg / 3)
    shares = (0.3, 0.5, 0.7, 0.85, 1.0)
    # Past infinity a reading would say no more than ∞.
    start = max(moved.infinity_deg, 0.0)
    angles = [start + (ring.throw_deg - start) * share for share in shares]
    points = tuple(Point(angle, float(moved.distance_at_angle(angle))) for angle in angles)
    found = calibrate(Survey(points, kind=Kind.MEASURED, error=0.5), ring.focal_mm, moved.closest_mm)
    assert found.model is Model.HELICOID
    assert found.lead_mm == pytest.approx(ring.lead_mm, rel=1e-6)
    assert found.infinity_deg == pytest.approx(moved.infinity_deg, abs=1e-4)
    assert found.lead_low_mm < ring.lead_mm < found.lead_high_mm


@settings(max_examples=40)
@given(st.integers(0, 10_000), st.sampled_from(METRES[:-1]), st.sampled_from([-4.0, 4.0]))
def test_one_bad_reading_is_named_and_left_out(seed, which, off):
    points = tuple(
        Point(p.position + (off if p.distance_mm == which * 1000 else 0), p.distance_mm, p.use)
        for p in scattered(seed, 0.2)
    )
    found = calibrate(Survey(points, kind=Kind.MEASURED, error=0.25), 50, 450)
    worst = found.outliers[0]
    assert points[worst.index].distance_mm == which * 1000
    assert worst.off_deg == pytest.approx(off, abs=1.2)
    assert not worst.used
    assert found.lead_mm == pytest.approx(10.8, rel=0.01)


def test_the_photographer_may_keep_or_drop_any_reading():
    points = readings(TRUE, off={1.2: 3.1})
    bad = next(i for i, point in enumerate(points) if point.distance_mm == 1200)

    def told(use):
        changed = list(points)
        changed[bad] = Point(points[bad].position, 1200, use)
        return calibrate(Survey(tuple(changed)), 50, 450)

    assert told(Use.AUTO).outliers[0].off_deg == pytest.approx(3.1, abs=0.05)
    assert told(Use.KEEP).residuals[bad].used
    assert told(Use.KEEP).rms_deg > 5 * told(Use.AUTO).rms_deg
    assert told(Use.DROP).outliers == ()
    assert told(Use.DROP).lead_mm == pytest.approx(10.8, rel=1e-6)


def test_the_stated_interval_holds_the_lead_about_95_times_in_100():
    """Binomial: 300 trials at 95 % give 274 or fewer about once in 400 seeds; the seed is fixed."""
    hits = 0
    for seed in range(300):
        found = calibrate(Survey(scattered(seed), kind=Kind.MEASURED, error=0.5), 50, 450)
        hits += found.lead_low_mm <= 10.8 <= found.lead_high_mm
    assert 275 <= hits <= 296


def internal_focusing(angle_deg):
    """Extension of an invented internally focusing lens, mm: a quarter turn that speeds up threefold."""
    return 0.004 * angle_deg + 0.00009 * angle_deg**2


def test_an_internal_focus_lens_is_recognised_and_reproduced():
    angles = np.linspace(0, 120, 10)
    f, error = 85.0, 0.5
    rng = np.random.default_rng(7)

    def film(x):
        s = f + f * f / x
        return s + f + x

    points = tuple(
        Point(float(a + rng.normal(0, error / 3)), math.inf if a == 0 else float(film(internal_focusing(a))))
        for a in angles
    )
    found = calibrate(Survey(points, kind=Kind.MEASURED, error=error), f, points[-1].distance_mm)
    assert found.model is Model.CURVED
    assert found.outliers == ()
    between = np.linspace(3, 117, 39)
    again = [found.ring.angle_at_distance(film(internal_focusing(a))) for a in between]
    assert np.max(np.abs(again - between)) < error


def test_a_straight_ring_is_not_called_curved():
    for seed in range(60):
        assert calibrate(Survey(scattered(seed), kind=Kind.MEASURED, error=0.5), 50, 450).model is Model.HELICOID


@given(st.floats(5, 115))
def test_curved_ring_inverts(angle):
    nodes = tuple(float(a) for a in np.linspace(0, 120, 9))
    ring = CurvedRing(85, 120, nodes, tuple(internal_focusing(a) for a in nodes))
    assert ring.angle_at_distance(ring.distance_at_angle(angle)) == pytest.approx(angle, abs=2e-3)
    moved = ring.moved(0.05, 2.0)
    assert moved.angle_at_extension(moved.extension_at_angle(angle)) == pytest.approx(angle, abs=2e-3)
    assert moved.extension_at_angle(angle + 2) == pytest.approx(ring.extension_at_angle(angle) + 0.05)


def test_millimetres_of_tape_are_degrees_of_a_known_ring():
    """60 mm across: 188.5 mm round, so 52.36 mm is 100°."""
    per_mm = 360 / (math.pi * 60)
    tape = tuple(Point(p.position / per_mm, p.distance_mm) for p in readings(TRUE))
    found = calibrate(Survey(tape, Way.TAPE, diameter_mm=60), 50, 450)
    assert Survey(tape, Way.TAPE, diameter_mm=60).deg_per_unit * 52.36 == pytest.approx(100, abs=0.01)
    assert found.lead_mm == pytest.approx(10.8, rel=1e-6)


def test_distances_from_the_front_rim_follow_the_rim_as_it_moves_out():
    """The rim is 90 mm from the film at infinity and x farther out when focused."""
    points = tuple(
        Point(p.position, p.distance_mm - 90 - max(0.0, float(TRUE.extension_at_angle(p.position))))
        for p in readings(TRUE)
    )
    survey = Survey(points, kind=Kind.MEASURED, start=Start.FRONT, front_mm=90)
    assert calibrate(survey, 50, 450).lead_mm == pytest.approx(10.8, rel=1e-6)
    assert np.isfinite(survey.film_distances(50)[:-1]).all()


def test_steps_of_an_indicator_give_a_curve_and_their_end():
    steps = tuple(Point(k, 1000 / (0.05 + 0.15 * k)) for k in range(0, 13, 2))
    found = calibrate(Survey(steps, Way.STEPS, Kind.MEASURED, end=12), 28, 500)
    assert found.ring.throw_deg == 180
    assert found.ring.distance_at_angle(90) == pytest.approx(1000 / 0.95, rel=2e-3)


def points(*pairs):
    return tuple(Point(angle, mm) for angle, mm in pairs)


@pytest.mark.parametrize(
    ("survey", "words"),
    [
        (lambda: Survey(points((10, 2000))), "1 reading"),
        (lambda: Survey(()), "0 readings"),
        (lambda: Survey(points(*[(i, 10_000 - i) for i in range(500)])), "500 readings"),
        (lambda: Survey(points((0, 1e9), (50, 2000), (50, 1000))), "1.00 m and 2.00 m at 50°"),
        (lambda: Survey(points((10, 5000), (12, 2000), (14.9, 1000))), "within 5°"),
        (lambda: Survey(points((10, 2000), (60, 2000))), "all are at one distance"),
        (lambda: Survey(points((10, 2000), (1100, 1000))), "no ring turns that far"),
        (lambda: Survey(points((10, 2000), (60, 0))), "more than nothing"),
        (lambda: Survey(points((0, 2000), (60, 1000)), Way.TAPE), "Measure the ring across"),
        (lambda: Survey(points((0, 2000), (60, 1000)), Way.TAPE, diameter_mm=0), "no focus ring is that size"),
        (lambda: Survey(points((0, 2000), (60, 1000)), error=0), "no usable reading error"),
        (lambda: Survey(points((0, 2000), (60, 1000)), end=40), "a reading lies beyond it"),
        (lambda: Survey(points((0, 2000), (60, 1000)), kind=Kind.MEASURED, start=Start.FRONT), "Film mark to front"),
    ],
)
def test_what_is_no_survey_says_why(survey, words):
    with pytest.raises(WelotropeError) as caught:
        survey()
    assert words in caught.value.sentence


@pytest.mark.parametrize(
    ("pairs", "words"),
    [
        (((200, math.inf), (100, 2000), (10, 500)), "the wrong way round"),
        (((0, math.inf), (100, 1000), (220, 300)), "nearer than closest focus"),
        (((0, math.inf), (100, 1000), (220, 120)), "nearer than closest focus"),
    ],
)
def test_what_cannot_be_fitted_says_why(pairs, words):
    with pytest.raises(WelotropeError) as caught:
        calibrate(Survey(points(*pairs)), 50, 450)
    assert words in caught.value.sentence


def test_readings_of_one_setting_within_the_reading_error_are_no_conflict():
    assert len(Survey(points((6.5, 14_000), (6.5, 16_000), (100, 1000), (200, 500))).points) == 4
