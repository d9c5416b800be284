import math

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from tests.core.strategies import blurs, rings, stops
from welotrope.core.errors import WelotropeError
from welotrope.core.ring.depth_marks import (
    MarkPair,
    MarkReading,
    MarkRecord,
    audit,
    blur_of_pair,
    blur_of_reading,
    stops_from_standard,
)
from welotrope.core.ring.window import ring_zone, sharp_window

FULL = (2.0, 2.8, 4.0, 5.6, 8.0, 11.0, 16.0)


@given(rings(), stops, blurs, st.floats(0.2, 0.9))
def test_a_reading_gives_back_the_blur_its_marks_were_made_for(ring, N, c, share):
    """The limits are traced with rays in ``tests/core/optics/test_ray_trace.py``; here they are read back."""
    assume(ring.focal_mm / N > 20 * c)
    zone = ring_zone(ring, ring.throw_deg * share, N, c)
    near, index, far = zone.near_mm, zone.focus_mm, zone.far_mm
    assume(near < index < far < math.inf)
    for reading in (
        MarkReading(stop=N, far_mm=far, near_mm=near), MarkReading(stop=N, near_mm=near, index_mm=index),
        MarkReading(stop=N, far_mm=far, index_mm=index),
        MarkReading(stop=N, far_mm=far, near_mm=near, index_mm=index),
    ):  # fmt: skip
        assert blur_of_reading(reading, ring.focal_mm) == pytest.approx(c, rel=1e-6, abs=1e-6)


def test_infinity_on_sixteen_against_half_the_hyperfocal():
    """Textbook: with ∞ on the far mark the near mark reads about half the hyperfocal distance f²/(N·c)."""
    implied = blur_of_reading(MarkReading(stop=16, far_mm=math.inf, near_mm=750), 28)
    assert implied == pytest.approx(28**2 / (16 * 2 * 750), rel=0.07)


def test_pair_against_the_published_proportion():
    """α·L/(360·N): marks 20° apart for f/8 on a lead of 10.8 mm."""
    assert blur_of_pair(MarkPair(8, 20), 10.8) == pytest.approx(10 * 10.8 / (360 * 8))


@given(rings(), stops, blurs)
def test_pair_and_window_agree_at_infinity(ring, N, c):
    assume(ring.focal_mm / N > 100 * c)
    width = sharp_window(ring, 0.0, N, c).width_deg
    assume(0.05 < width < 360)
    assert blur_of_pair(MarkPair(N, width), ring.lead_mm) == pytest.approx(c, rel=1e-3)


@pytest.mark.parametrize(
    ("implied", "rule"),
    [
        (0.030, "read the marks as they are"),
        (0.060, "marks two stops wider: set f/11, read the 5.6 marks"),
        (0.0424, "marks one stop wider: set f/11, read the 8 marks"),
        (0.015, "marks 2 stops smaller"),
    ],
)
def test_rule_to_carry_in_the_head(implied, rule):
    found = audit([(8.0, implied)], 0.030)
    assert rule.replace("two stops", "2 stops") in found.rule(FULL)


def test_stops_double_the_area():
    assert stops_from_standard(0.06, 0.03) == pytest.approx(2)
    assert stops_from_standard(0.015, 0.03) == pytest.approx(-2)


def test_wide_pairs_weigh_more():
    found = audit([(2.0, 0.050), (16.0, 0.030)], 0.03)
    assert found.blur_mm == pytest.approx((4 * 0.05 + 256 * 0.03) / 260)
    assert found.per_reading == ((2.0, 0.050), (16.0, 0.030))


@pytest.mark.parametrize(
    ("make", "words"),
    [
        (lambda: blur_of_reading(MarkReading(stop=16, far_mm=math.inf), 28), "one mark says nothing"),
        (lambda: blur_of_reading(MarkReading(stop=16, far_mm=700, near_mm=1000), 28), "near mark must read nearer"),
        (lambda: blur_of_reading(MarkReading(stop=0, far_mm=math.inf, near_mm=1000), 28), "read “f/0”"),
        (lambda: blur_of_pair(MarkPair(16, 0), 10), "no pair of marks"),
        (lambda: MarkRecord(), "0 readings"),
        (lambda: audit([], 0.03), "nothing to read"),
    ],
)
def test_bad_marks_say_why(make, words):
    with pytest.raises(WelotropeError) as caught:
        make()
    assert words in caught.value.sentence
