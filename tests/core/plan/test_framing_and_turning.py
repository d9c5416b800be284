import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.plan.ray_trace import image_height
from welotrope.core.errors import OutOfRangeError
from welotrope.core.optics.sharpness import ImageFormat
from welotrope.core.optics.thin_lens import Datum
from welotrope.core.plan.framing import field_of_view, half_angle, height_seen, standing_fits_from
from welotrope.core.plan.sitter import recompose_shift, turn_for_offset


@pytest.mark.parametrize(("f", "mm"), [(8, 400.0), (35, 2000.0), (100, 450.0), (600, 9000.0)])
def test_the_edge_of_the_field_is_imaged_at_the_edge_of_the_picture(f, mm):
    image = ImageFormat(36, 24)
    found = field_of_view(image, mm, f, Datum.FILM)
    v = next(v for v in (f * (1 + found.magnification),))
    assert image_height(found.width_mm / 2, mm - v, v) == pytest.approx(-18, rel=1e-6)
    assert image_height(found.height_mm / 2, mm - v, v) == pytest.approx(-12, rel=1e-6)


def test_the_field_at_infinity_has_no_end():
    assert math.isinf(field_of_view(ImageFormat(36, 24), math.inf, 50, Datum.FILM).width_mm)


@given(camera=st.floats(200, 2500), half=st.floats(0.05, 1.0), tilt=st.floats(-25, 25), figure=st.floats(500, 2200))
def test_a_figure_fits_from_there_and_no_nearer(camera, half, tilt, figure):
    """By walking up to it: feet and head are rays, the picture's edges are angles."""
    nearest = standing_fits_from(camera, half, tilt_deg=tilt, figure_mm=figure)

    def fits(d):
        feet, head = math.atan2(-camera, d), math.atan2(figure - camera, d)
        return feet >= math.radians(tilt) - half - 1e-9 and head <= math.radians(tilt) + half + 1e-9

    if math.isinf(nearest):
        assert not any(fits(d) for d in (100, 1000, 10_000, 1e6))
    else:
        assert fits(nearest * (1 + 1e-9) + 1e-6)
        assert nearest < 1 or not fits(nearest * 0.998)


def test_a_camera_at_the_waist_sees_the_ground_and_over_heads():
    seen = height_seen(1000, 3000, half_angle(24, 28))
    assert seen.low_mm == 0
    assert seen.high_mm == pytest.approx(1000 + 3000 * 12 / 28)
    assert math.isinf(height_seen(1000, 3000, 1.0, tilt_deg=60).high_mm)
    with pytest.raises(OutOfRangeError):
        height_seen(1000, 3000, 0.4, tilt_deg=85)


@given(d=st.floats(300, 1e5), angle=st.floats(0.01, 80))
def test_recomposing_by_turning_the_plane_itself(d, angle):
    """The plane is a line at d across the axis; turned with the camera, it crosses the way to the subject farther on."""
    phi = math.radians(angle)
    normal = (math.cos(phi), math.sin(phi))
    subject = (d, 0.0)
    behind = d - (subject[0] * normal[0] + subject[1] * normal[1])
    assert recompose_shift(d, angle) == pytest.approx(behind, rel=1e-9, abs=1e-9)


def test_turning_far_enough_loses_the_subject():
    for angle in (90, -120):
        with pytest.raises(OutOfRangeError, match="out of any picture"):
            recompose_shift(1500, angle)
    assert recompose_shift(math.inf, 0) == 0
    assert turn_for_offset(0, 50) == 0
