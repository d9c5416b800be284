"""What a pixel of the live picture shows, and what the standard is in it: figures worked by hand."""

from dataclasses import replace

import pytest

from welotrope.core.kit.aids.viewing_optics import Sensor, ViewingOptics
from welotrope.core.live.outline import judged, step_blur_px, view_scale
from welotrope.core.optics.depth import sharp_limits

SENSOR = Sensor(pitch_mm=0.006, width_px=6000)  # 36 mm
SIGHT = ViewingOptics(
    focal_mm=50, focus_x=1.2, stop=8, view_stop=2, widest=2, blur_mm=0.03, degrees_per_mm=60, window_deg=5
)


def test_the_stop_looked_through_makes_the_blur_allowed_look_larger():
    scale = view_scale(SIGHT, SENSOR, live_px=1800, step=1)
    assert scale.pixel_mm == pytest.approx(0.02)
    assert scale.sharp_px == pytest.approx(0.03 * 8 / 2 / 0.02)
    assert scale.levels[1] == (pytest.approx(0.03), pytest.approx(6.0))
    assert not scale.is_coarse


def test_magnified_a_pixel_shows_less_but_never_less_than_the_sensors():
    assert view_scale(SIGHT, SENSOR, live_px=1800, step=2).pixel_mm == pytest.approx(0.01)
    assert view_scale(SIGHT, SENSOR, live_px=1800, step=60).pixel_mm == pytest.approx(0.006)


def test_a_blur_too_small_to_be_measured_is_measured_by_the_least_that_can_be():
    scale = view_scale(SIGHT, SENSOR, live_px=200, step=1)
    assert scale.is_coarse
    assert scale.measured_px == 2.0


def test_what_it_tells_grows_with_the_pixel_and_the_stop():
    fine, coarse = (judged(SIGHT, SENSOR, live_px=px, step=1).defocus_mm for px in (1800, 900))
    assert coarse == pytest.approx(2 * fine)
    # A pixel of 0.02 mm, one of which is left at the best, at f/2 and a magnification of 0.024.
    assert fine == pytest.approx(0.02 * 2 * 1.024, rel=1e-3)


def test_a_step_of_the_ring_blurs_by_as_much_as_the_image_moves_off_the_film():
    """The image of a subject that stays is traced through a thin lens before and behind a turn of the ring."""
    focal, before, degrees = 50.0, 1.2, 3.0
    scale = view_scale(SIGHT, SENSOR, live_px=1800, step=1)
    subject = 1 / (1 / focal - 1 / (focal + before))  # from the lens
    film = subject + focal + before
    moved = before + degrees / SIGHT.degrees_per_mm
    nearer = film - (focal + moved)  # subject to lens, which drew nearer to it by what it stands out
    image = 1 / (1 / focal - 1 / nearer)
    aperture = focal / SIGHT.view_stop
    blur_mm = aperture * abs(image - (focal + moved)) / image
    sight = replace(SIGHT, window_deg=_window_deg())
    assert step_blur_px(sight, scale, degrees) == pytest.approx(blur_mm / scale.pixel_mm, rel=0.02)


def _window_deg():
    """The ring window of a subject that stays, as wide as the optics say for a ring of 60 degrees a millimetre."""
    limits = sharp_limits(SIGHT.focus_x, SIGHT.focal_mm, SIGHT.stop, SIGHT.blur_mm)
    return limits.spread * SIGHT.degrees_per_mm / (1 - SIGHT.magnification**2)
