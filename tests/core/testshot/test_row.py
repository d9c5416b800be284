"""A row of sheets: where the plane fell among them, and when they do not tell."""

import numpy as np
import pytest

from tests.core.testshot.facing_scenes import row_camera, row_picture
from welotrope.core.testshot.camera import picture_of
from welotrope.core.testshot.reading import read_plane
from welotrope.core.testshot.row_reading import read_row
from welotrope.core.testshot.sheets import SheetPaper, slope_sheet
from welotrope.core.testshot.slope import ShotSettings


def settings(camera, **more):
    return ShotSettings(**({"focal_mm": camera.focal_mm, "width_mm": 36.0, "stop": camera.stop} | more))


CASES = [{"plane_mm": -70.0}, {"plane_mm": 12.0, "noise": 6.0}, {"plane_mm": 60.0, "stop": 1.6}]


@pytest.mark.parametrize("case", CASES)
def test_the_plane_is_found_within_a_tenth_of_the_depth(case):
    camera = row_camera(**case)
    found = read_row(row_picture(camera), settings(camera))
    depth = 2 * camera.stop * 0.03 * (camera.distance_mm / camera.focal_mm) ** 2
    assert found.plane_mm == pytest.approx(camera.plane_mm, abs=depth / 10)
    assert abs(found.plane_mm - camera.plane_mm) < found.plane_high_mm - found.plane_low_mm
    assert found.plane_high_mm - found.plane_low_mm < depth / 12
    assert found.distance_mm == pytest.approx(camera.distance_mm + camera.image_mm, rel=0.002)
    assert abs(found.tilt_deg) < found.tilt_high_deg - found.tilt_low_deg
    assert found.warnings == ()
    # What is sharp, by the thin lens: where a disc of the aperture comes out 0.03 mm wide on the film.
    apart = 0.03 / (camera.focal_mm / camera.stop * camera.image_mm)
    limits = [1 / (1 / camera.focus_mm + sign * apart) - camera.distance_mm for sign in (1, -1)]
    assert [found.formula_near_mm, found.formula_far_mm] == pytest.approx(limits, abs=0.1 * depth)
    assert [found.sharp_near_mm, found.sharp_far_mm] == pytest.approx(limits, abs=0.15 * depth)


def test_either_kind_of_sheet_is_known_by_itself():
    camera = row_camera(**CASES[0])
    assert read_plane(row_picture(camera), settings(camera)).sheets >= 4
    sloping = row_camera(distance_mm=1200.0, slope_deg=45.0, plane_mm=4.0)
    found = read_plane(picture_of(slope_sheet(SheetPaper.A4), sloping), settings(sloping))
    assert found.plane_mm == pytest.approx(4.0, abs=1.0)
    assert found.slope_deg == pytest.approx(45.0, abs=0.5)


def test_distances_that_were_measured_replace_those_by_size():
    camera = row_camera(**CASES[0])
    film = camera.distance_mm + camera.image_mm
    # All were measured to stand 4 % farther than they do, as with a print that came out too small.
    stand = {number: camera.before((235.0 * (number - 5), 0.0, 90.0 * (number - 5))) for number in range(3, 8)}
    said = {number: 1.04 * (one.distance_mm + camera.image_mm) for number, one in stand.items()}
    found = read_row(row_picture(camera), settings(camera), distances_mm=said)
    assert found.distance_mm == pytest.approx(1.04 * film, rel=1e-6)
    assert found.plane_mm == pytest.approx(1.04 * camera.plane_mm, abs=4.0)


FAULTS = [
    (row_camera(plane_mm=12.0), {"numbers": (3, 4, 6, 7)}, "Sheet 5, which focus is put on"),
    (row_camera(plane_mm=-70.0), {"numbers": (4, 5, 6)}, "Only 3 sheets of the row"),
    (row_camera(plane_mm=-190.0, stop=2.8), {"step_mm": 40.0}, "in front of all sheets"),
    (row_camera(plane_mm=210.0, stop=2.8), {"step_mm": 40.0}, "behind all sheets"),
]


@pytest.mark.parametrize(("camera", "how", "words"), FAULTS)
def test_a_row_that_cannot_tell_says_so(camera, how, words):
    found = read_row(row_picture(camera, **how), settings(camera))
    assert found.plane_mm is None
    assert words in " ".join(found.warnings)


def test_sheets_out_of_order_are_noticed():
    camera = row_camera(plane_mm=12.0, noise=6.0)
    found = read_row(row_picture(camera, order=(4, 3, 5, 6, 7)), settings(camera))
    assert any("order of their numbers" in one for one in found.warnings)
    assert found.plane_mm == pytest.approx(12.0, abs=15.0)


def test_a_stop_that_was_not_so_is_noticed():
    camera = row_camera(plane_mm=-70.0)
    found = read_row(row_picture(camera), settings(camera, stop=2.8))
    assert any("faster than stop" in one for one in found.warnings)


def test_motion_is_noticed_where_it_is_sharpest():
    camera = row_camera(plane_mm=0.0, shake_px=5.0)
    assert any("motion blur" in one for one in read_row(row_picture(camera), settings(camera)).warnings)


def test_nothing_is_said_of_an_empty_picture():
    assert read_row(np.full((900, 1200), 128, np.uint8), settings(row_camera())).plane_mm is None
