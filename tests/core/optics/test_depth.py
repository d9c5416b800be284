import math

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from tests.core.strategies import blurs, film_distances, focals, stops
from welotrope.core.errors import OutOfRangeError, TooCloseError
from welotrope.core.optics import blur, depth, thin_lens
from welotrope.core.optics.depth import film_zone


@given(st.data(), focals, stops, blurs)
def test_near_focus_far_in_order(data, f, N, c):
    assume(f / N > c * 1.01)
    D = data.draw(film_distances(f))
    x = thin_lens.extension_at_film_distance(D, f)
    limits = depth.sharp_limits(x, f, N, c)
    assert limits.near_x > x > limits.far_x


@given(st.data(), focals, stops, blurs)
def test_blur_at_the_limits_is_the_standard(data, f, N, c):
    """The limits solved one way round, the blur of a point the other: an independent derivation."""
    assume(f / N > c * 1.5)
    x = thin_lens.extension_at_film_distance(data.draw(film_distances(f)), f)
    limits = depth.sharp_limits(x, f, N, c)
    for end in (limits.near_x, limits.far_x):
        assert blur.defocus_blur(end, x, f, N) == pytest.approx(c, rel=1e-6)
    assert blur.defocus_blur(x, x, f, N) == pytest.approx(0, abs=1e-12)


@given(st.data(), focals, stops, blurs)
def test_smaller_stop_never_narrows_the_zone(data, f, N, c):
    assume(f / (N * 1.5) > c * 1.01)
    x = thin_lens.extension_at_film_distance(data.draw(film_distances(f)), f)
    wide, small = depth.sharp_limits(x, f, N, c), depth.sharp_limits(x, f, N * 1.4, c)
    assert small.near_x > wide.near_x
    assert small.far_x < wide.far_x


@given(focals, stops, blurs)
def test_hyperfocal_puts_the_far_limit_on_infinity_and_near_at_half(f, N, c):
    assume(f / N > c * 2)
    x = depth.hyperfocal_extension(f, N, c)
    limits = depth.sharp_limits(x, f, N, c)
    assert limits.far_x == pytest.approx(0, abs=1e-9 * f)
    hyperfocal = thin_lens.object_distance_at_extension(x, f)
    assert hyperfocal == pytest.approx(depth.hyperfocal_object_distance(f, N, c), rel=1e-9)
    near = thin_lens.object_distance_at_extension(limits.near_x, f)
    assert near == pytest.approx(hyperfocal / 2, rel=1e-6)


@given(focals, stops, blurs, st.floats(0.001, 0.9), st.floats(-0.3, 0.5), st.booleans(), st.booleans())
def test_extension_with_limit_is_the_inverse_of_the_limit(f, N, c, m, h_share, far, beyond):
    assume(f / N > c * 20)
    x, h = (f / m if beyond else f * m), h_share * f
    zone = film_zone(x, f, N, c, h=h)
    limit = zone.far_mm if far else zone.near_mm
    assume(math.isfinite(limit))
    again = depth.extension_with_limit(limit, f, N, c, far=far, h=h, beyond=beyond)
    # Next to life size the distance hardly depends on the extension.
    assert again == pytest.approx(x, rel=1e-5)


def test_no_setting_is_sharp_nearer_than_life_size():
    with pytest.raises(TooCloseError, match="life size"):
        depth.extension_with_limit(150, 50, 8, 0.03, far=False)


@pytest.mark.parametrize(("N", "c"), [(0, 0.03), (-2, 0.03), (1e9, 0.03), (math.nan, 0.03), (8, 0), (8, 1e9), (128, 1)])
def test_impossible_stops_and_blurs_are_refused(N, c):
    with pytest.raises(OutOfRangeError):
        depth.sharp_limits(1.0, 50, N, c)


def test_airy_disc_of_f11():
    """The first dark ring at f/11 in green light is 14.8 µm across (2.44·0.55 µm·11)."""
    assert blur.airy_diameter(11) == pytest.approx(0.0148, abs=5e-5)
    assert blur.airy_diameter(blur.diffraction_limited_stop(0.03)) == pytest.approx(0.03)


def test_balanced_stop_makes_both_blurs_alike():
    spread = 0.8
    N = blur.balanced_stop(spread)
    assert spread / (2 * N) == pytest.approx(blur.airy_diameter(N), rel=0.01)


def test_balanced_stop_close_up_is_read_off_the_ring():
    """At half life size a ring that reads 8 works at 12: both blurs are alike there."""
    spread, m = 0.8, 0.5
    working = blur.balanced_stop(spread, m=m) * (1 + m)
    assert spread / (2 * working) == pytest.approx(blur.airy_diameter(working), rel=0.01)


def test_effective_stop_at_life_size_doubles():
    assert thin_lens.effective_stop(8, 1.0) == 16
    assert thin_lens.effective_stop(8, 1.0, P=2) == 12
