import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.plan.ray_trace import image_height
from welotrope.core.errors import ConflictError, OutOfRangeError
from welotrope.core.exposure.light import (
    BY_ID,
    CONDITIONS,
    agreed_light,
    ev_of_reading,
    long_exposure,
    metered_for,
    shutter_for,
)
from welotrope.core.exposure.motion import HOLDING_BY_ID, image_speed, slowest_held, slowest_shutter
from welotrope.core.exposure.shutter_dial import MARKED, marked_iso, marked_shutter, shorter_marked
from welotrope.core.optics.sharpness import ImageFormat

# A printed exposure table for ISO 100: subject, stop and shutter as such tables give them.
TABLE = [("sun", 16, 1 / 125), ("overcast", 5.6, 1 / 125), ("window", 2.8, 1 / 30), ("street_night", 2, 1 / 4)]


@pytest.mark.parametrize(("light", "stop", "shutter"), TABLE)
def test_the_conditions_agree_with_printed_tables(light, stop, shutter):
    ev = next(one.ev for one in CONDITIONS if one.id == light)
    assert abs(math.log2(shutter_for(ev, stop, 100) / shutter)) <= 1.0


def test_conditions_run_from_sun_to_starlight_with_their_width():
    assert CONDITIONS[0].ev == pytest.approx(14.64, abs=0.01)
    assert min(one.ev for one in CONDITIONS) == CONDITIONS[-1].ev < -5
    assert all(0.5 <= one.half <= 2 for one in CONDITIONS)


@given(
    ev=st.floats(-6, 16), stop=st.floats(1, 40), iso=st.floats(25, 25600), filters=st.floats(0, 4), m=st.floats(0, 2)
)
def test_there_and_back(ev, stop, iso, filters, m):
    shutter = shutter_for(ev, stop, iso, filter_stops=filters, m=m)
    assert ev_of_reading(shutter, stop * (1 + m), iso * 2**-filters) == pytest.approx(ev, abs=1e-9)


@pytest.mark.parametrize(
    ("values", "field"), [((30, 8, 100), "Exposure value"), ((12, 8, 0), "ISO"), ((12, 8, 100, -1), "Filter")]
)
def test_impossible_light(values, field):
    with pytest.raises(OutOfRangeError, match=field):
        shutter_for(*values[:3], filter_stops=dict(enumerate(values)).get(3, 0.0))


def test_the_dial():
    assert all(marked_shutter(one) == one for one in MARKED)
    assert marked_shutter(600) is None
    assert marked_shutter(1 / 13_000) is None


def test_the_marked_iso_is_never_more_than_a_sixth_of_a_stop_off():
    for third in range(-12, 40):
        iso = 100 * 2 ** (third / 6)
        assert abs(math.log2(marked_iso(iso) / iso)) <= 1 / 6 + 0.02


def test_a_reading_is_taken_or_asked_about():
    assert agreed_light(BY_ID["overcast"], BY_ID["overcast"].ev + 2.4) == BY_ID["overcast"].ev + 2.4
    for off in (2.6, -2.6):
        with pytest.raises(ConflictError, match="contradicts “overcast"):
            agreed_light(BY_ID["overcast"], BY_ID["overcast"].ev + off)


@pytest.mark.parametrize("angle", [0, 20, 45, 90])
@pytest.mark.parametrize(("f", "metres", "speed"), [(50, 5, 1.4), (300, 40, 6), (24, 1.5, 0.5)])
def test_movement_followed_over_a_millisecond(f, metres, speed, angle):
    """A point on either side of the middle moved along its path and traced through the middle of the lens."""
    s, t = metres * 1000, 1e-3
    v = f * s / (s - f)
    phi = math.radians(angle)
    offset = 6.0
    across, along = speed * 1000 * t * math.sin(phi), speed * 1000 * t * math.cos(phi)
    places = [side * offset / v * s for side in (-1, 1)]
    moved = [abs(image_height(at + across, s - along, v) - image_height(at, s, v)) for at in places]
    expected = max(moved) / t
    assert image_speed(v / s, s, speed, angle, offset_mm=offset) == pytest.approx(expected, rel=2e-3)


def test_what_stands_still_takes_any_shutter():
    assert math.isinf(slowest_shutter(image_speed(0.01, 5000, 0, 45), 0.03))
    assert image_speed(0.01, math.inf, 5, 0) == 0


def test_a_stricter_standard_and_a_smaller_picture_take_a_faster_shutter():
    hand, full, small = HOLDING_BY_ID["hand"], ImageFormat(36, 24), ImageFormat(17.3, 13)
    plain = slowest_held(50, full, full.diagonal_mm / 1500, hand)
    assert slowest_held(50, full, full.diagonal_mm / 3000, hand) == pytest.approx(plain / 2)
    assert slowest_held(50, small, small.diagonal_mm / 1500, hand) == pytest.approx(plain / 2, rel=0.01)
    assert slowest_held(50, full, 0.029, HOLDING_BY_ID["stabilised"]) == pytest.approx(8 / 50, rel=0.01)
    assert math.isinf(slowest_held(50, full, 0.03, HOLDING_BY_ID["tripod"]))


@given(metered=st.floats(0.001, 600), exponent=st.floats(1, 1.6))
def test_film_needs_longer_and_never_shorter(metered, exponent):
    needed = long_exposure(metered, exponent)
    assert needed >= metered
    assert metered_for(needed, exponent) == pytest.approx(metered, rel=1e-9)


def test_no_sheet_gives_that():
    with pytest.raises(OutOfRangeError):
        long_exposure(10, 0.9)


@pytest.mark.parametrize(
    ("slowest", "told"),
    [(1 / 59, 1 / 60), (1 / 60, 1 / 60), (1 / 61, 1 / 125), (1 / 9_500, 1 / 9_500), (75, 60), (math.inf, math.inf)],
)
def test_a_limit_is_said_as_a_time_on_the_dial_that_keeps_it(slowest, told):
    assert shorter_marked(slowest) == pytest.approx(told)
    assert shorter_marked(slowest) <= slowest
