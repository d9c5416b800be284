"""Depth of field by tracing rays through an ideal lens onto a film that stays where it is."""

import math

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from welotrope.core.optics.depth import film_zone, film_zone_extension
from welotrope.core.optics.thin_lens import (
    Datum,
    extension_at_film_distance,
    film_distance_at_extension,
    film_distance_of_image,
    image_of_film_distance,
)
from welotrope.core.optics.turning import sharp_turning
from welotrope.core.plan import calculations


def blur_on_film(distance_mm, x, f, N, h=0.0):
    """Trace the two marginal rays of a point on the axis, ``distance_mm`` before the film, to the film."""
    gap = f + x  # rear principal plane to film
    s = distance_mm - h - gap
    hits = []
    for height in (f / N / 2, -f / N / 2):
        slope = height / s if math.isfinite(s) else 0.0
        bent = slope - height / f
        hits.append(height + bent * gap)
    return abs(hits[0] - hits[1])


magnifications = st.floats(0.001, 1.0)
shares = st.floats(-0.5, 0.8)


@given(st.floats(8, 600), st.floats(0.95, 32), st.floats(0.004, 0.06), magnifications, shares)
def test_blur_at_the_limits_is_the_standard_up_to_life_size(f, N, c, m, h_share):
    assume(f / N > 1.5 * c)
    x, h = m * f, h_share * f
    zone = film_zone(x, f, N, c, h=h)
    assert zone.near_mm < zone.focus_mm < zone.far_mm
    assert blur_on_film(zone.focus_mm, x, f, N, h) == pytest.approx(0, abs=1e-9 * f)
    assert blur_on_film(zone.near_mm, x, f, N, h) == pytest.approx(c, rel=1e-6)
    assert blur_on_film(zone.inside_near_mm, x, f, N, h) == pytest.approx(1.02 * c, rel=1e-6)
    if math.isfinite(zone.far_mm):
        assert blur_on_film(zone.far_mm, x, f, N, h) == pytest.approx(c, rel=1e-6)
    else:
        assert blur_on_film(math.inf, x, f, N, h) <= c * (1 + 1e-9)


@pytest.mark.parametrize("f", [20.0, 50.0, 100.0])
def test_at_life_size_the_focus_lies_between_its_limits(f):
    """Where a lens stands at 1:1 its two limits lie either side, about 2·N·c·(1+m)/m² apart."""
    result = calculations.depth(f, 8, 0.03, 4 * f, Datum.FILM)
    assert result.near_mm < 4 * f < result.far_mm
    assert result.far_mm - result.near_mm == pytest.approx(4 * 8 * 0.03, rel=0.01)


@given(st.floats(8, 600), magnifications, shares, st.floats(0.001, 1.0))
def test_image_and_distance_invert_with_the_lens_standing_still(f, m, h_share, other):
    x, h = m * f, h_share * f
    D = film_distance_of_image(other * f, x, f, h=h)
    assert image_of_film_distance(D, x, f, h=h) == pytest.approx(other * f, rel=1e-9)


@given(st.floats(8, 600), st.floats(1.001, 20), shares)
def test_the_root_beyond_life_size_inverts_too(f, m, h_share):
    h = h_share * f
    D = film_distance_at_extension(m * f, f, h=h)
    assert extension_at_film_distance(D, f, h=h, beyond=True) == pytest.approx(m * f, rel=1e-4)
    assert extension_at_film_distance(D, f, h=h) == pytest.approx(f / m, rel=1e-4)


@given(
    st.floats(8, 400), st.floats(4.2, 60), st.floats(1.02, 6), st.floats(-0.1, 0.3), st.booleans(),
)  # fmt: skip
def test_a_zone_blurs_both_ends_alike_and_less_than_any_other_setting(f, near, ratio, h_share, endless):
    h = h_share * f
    near_mm, far_mm = near * f + h, math.inf if endless else near * f * ratio + h
    x = film_zone_extension(near_mm, far_mm, f, h=h)
    ends = [blur_on_film(mm, x, f, 4, h) for mm in (near_mm, far_mm)]
    assert ends[0] == pytest.approx(ends[1], rel=1e-6)
    for other in (x * 0.999, x * 1.001):
        assert max(blur_on_film(mm, other, f, 4, h) for mm in (near_mm, far_mm)) > ends[0]


def test_a_zone_beyond_life_size():
    f, h = 50.0, 0.0
    x = film_zone_extension(250.0, 252.0, f, beyond=True)
    assert x > f
    ends = [blur_on_film(mm, x, f, 4, h) for mm in (250.0, 252.0)]
    assert ends[0] == pytest.approx(ends[1], rel=1e-6)


def turned_until_soft(x, f, N, c, way):
    """Turn the lens in small steps and trace the subject each time, which like the film stays; return the extension."""
    gap = f + x
    subject_mm = math.inf if x == 0 else gap + f * gap / (gap - f)
    step = way * max(f * N * c / f, 1e-4) / 4000
    moved = x
    while blur_on_film(subject_mm, moved + step, f, N) <= c:
        moved += step
    return moved


@pytest.mark.parametrize(
    ("f", "m", "N", "c"),
    [(50, 0.0, 2, 0.03), (100, 0.5, 4, 0.03), (60, 0.457, 5.6, 0.03), (100, 0.8, 2.8, 0.02), (8, 0.03, 2.8, 0.01),
     (100, 1.5, 4, 0.03), (90, 2.0, 8, 0.03), (100, 0.97, 8, 0.03), (100, 1.02, 8, 0.03), (600, 0.1, 5.6, 0.03)],
)  # fmt: skip
def test_the_window_is_where_a_subject_that_stays_turns_soft(f, m, N, c):
    """Near life size, where the lens focuses the subject twice, the window goes through both."""
    x = m * f
    found = sharp_turning(x, f, N, c)
    far, near = (turned_until_soft(x, f, N, c, way) for way in (-1, 1))
    assert (found.far_x, found.near_x) == (pytest.approx(far, abs=2e-3 * N * c), pytest.approx(near, abs=2e-3 * N * c))


@pytest.mark.parametrize(("f", "distance_mm", "stop", "lead_mm", "window_deg"), [
    (60, 245, 5.6, 50.0, None), (100, 450, 4, 60.0, 2.88),
])  # fmt: skip
def test_the_calculation_of_the_ring_gives_the_traced_window(f, distance_mm, stop, lead_mm, window_deg):
    x = extension_at_film_distance(distance_mm, f)
    found = calculations.ring(f, lead_mm, stop, 0.03, distance_mm, Datum.FILM).window_deg
    width = turned_until_soft(x, f, stop, 0.03, 1) - turned_until_soft(x, f, stop, 0.03, -1)
    assert found == pytest.approx(width * 360 / lead_mm, rel=2e-3)
    if window_deg is not None:  # worked apart, at 100 mm, 1:2
        assert found == pytest.approx(window_deg, abs=0.01)
