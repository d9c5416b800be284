import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.plan.ray_trace import through_two
from welotrope.core.errors import ConflictError, OutOfRangeError
from welotrope.core.optics.thin_lens import power_from_range
from welotrope.core.plan.closeup import close_range, close_setting
from welotrope.core.plan.night_plan import trail_time


@given(f=st.floats(20, 300), x=st.floats(0.001, 0.4), power=st.floats(0.5, 10), gap=st.floats(0, 30))
def test_two_lenses_traced_meet_on_the_film(f, x, power, gap):
    x *= f
    try:
        one = close_setting(f, x, power=power, gap_mm=gap)
    except ConflictError:
        assert f + f * f / x <= gap
        return
    behind, height = through_two(one.working_mm, 1000 / power, gap, f)
    assert behind == pytest.approx(f + x, rel=1e-6)
    assert -height == pytest.approx(one.magnification, rel=1e-6)


def test_at_infinity_the_close_up_lens_works_at_its_focal_length():
    one = close_setting(100, 0.0, power=2, gap_mm=15)
    assert one.working_mm == 500
    behind, height = through_two(500.0, 500.0, 15, 100.0)
    assert (behind, -height) == (pytest.approx(100), pytest.approx(one.magnification))
    assert math.isinf(close_setting(100, 0.0).working_mm)


def test_a_tube_and_two_lenses_add_up():
    both = close_range(100, 12.7, power=3, tube_mm=25)
    assert both.near.extension_mm == pytest.approx(37.7)
    assert both.near.working_mm < both.far.working_mm < close_range(100, 12.7, power=2, tube_mm=25).far.working_mm


@given(power=st.floats(0.5, 10), main=st.floats(500, 1e6))
def test_a_measured_distance_gives_the_power_back(power, main):
    working = 1 / (1 / main + power / 1000)
    assert power_from_range(working, main_mm=main) == pytest.approx(power, rel=1e-6)


@pytest.mark.parametrize(("values", "error"), [((50, 5, -1), OutOfRangeError), ((50, 5, 50), OutOfRangeError)])
def test_no_such_attachment(values, error):
    with pytest.raises(error):
        close_setting(*values[:2], power=values[2])


def test_a_close_up_lens_brings_nearer():
    with pytest.raises(ConflictError, match="nearer"):
        power_from_range(2000, main_mm=1000)


def test_a_star_followed_across_the_film():
    """A star on the equator turned by the sky's rate and projected through the lens, step by step."""
    f, t, allowed = 20.0, 0.0, 0.012
    while f * math.tan(2 * math.pi / 86164.1 * t) < allowed:
        t += 0.001
    assert trail_time(f, allowed) == pytest.approx(t, rel=1e-3)
    assert math.isinf(trail_time(f, allowed, declination_deg=90))
    with pytest.raises(OutOfRangeError):
        trail_time(f, allowed, declination_deg=95)
