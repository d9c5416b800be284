"""Parts of the measuring, each against geometry or light worked out apart from it."""

import math
from dataclasses import replace

import numpy as np
import pytest

from tests.core.testshot.shots import SIZE, camera, shot
from welotrope.core.testshot.blur_fit import signed_blur
from welotrope.core.testshot.find_sheet import FoundSheet
from welotrope.core.testshot.plane_fit import PlaneFit, disc_kept
from welotrope.core.testshot.pose import pose_of, shared_plane
from welotrope.core.testshot.sheets import CELL_MM, DOT_MM, SheetPaper, dots_of, slope_sheet, wall_sheet
from welotrope.core.testshot.stop_series import compared
from welotrope.core.testshot.transfer import page_patch
from welotrope.interchange.print.drawing import Text
from welotrope.interchange.print.target import target_page

SLOPE = slope_sheet(SheetPaper.A4)


def found_by(made, sheet=SLOPE):
    """A sheet as it lies in a picture, by the camera itself."""
    return FoundSheet(sheet=sheet, ids=(0, 1, 2, 3), to_px=made.to_px(sheet), size_px=made.size_px)


@pytest.mark.parametrize("periods", [0.0, 0.3, 1.22, 2.7, 31.4, 255.9])
def test_a_disc_keeps_of_a_wave_what_is_left_when_it_is_averaged_over_the_disc(periods):
    across = (np.arange(400_000) + 0.5) / 400_000 - 0.5
    chord = np.sqrt(0.25 - across**2)
    mean = (np.cos(2 * np.pi * periods * across) * chord).sum() / chord.sum()
    assert float(disc_kept(np.array([periods]))[0]) == pytest.approx(mean, abs=3e-5)


def test_a_disc_of_hundreds_of_periods_keeps_next_to_nothing():
    assert np.abs(disc_kept(np.array([256.0, 1e3, 1e7]))).max() < 1e-4


@pytest.mark.parametrize("behind", [0.0, 120.0, -90.0])
def test_the_film_stands_where_a_thin_lens_puts_it(behind):
    made = camera(plane_mm=behind)
    pose = pose_of(found_by(made), focal_mm=50.0, width_mm=36.0, focus=made.focus_mm / made.distance_mm)
    assert pose.image_mm == pytest.approx(1 / (1 / 50.0 - 1 / made.focus_mm), rel=1e-4)
    assert pose.in_lens(np.array([SLOPE.mark_mm]))[0, 2] == pytest.approx(made.distance_mm, rel=1e-4)


@pytest.mark.parametrize("tilt", [0.0, 4.0, -6.0])
def test_blur_grows_from_pixel_to_pixel_as_from_patch_to_patch(tilt):
    made = camera(plane_mm=4.0, tilt_deg=tilt, slope_deg=50.0, roll_deg=7.0)
    found = found_by(made)
    pose = pose_of(found, focal_mm=50.0, width_mm=36.0, focus=made.focus_mm / made.distance_mm)
    rate = 50 / 2 * made.image_mm / made.pitch_mm
    fit = PlaneFit(
        plane_z=made.focus_mm, lean=math.tan(math.radians(tilt)), rate=rate, own_px=0.5, covariance=np.zeros((4, 4)),
        misfit=1.0, patches=9,
    )  # fmt: skip
    middle = np.array([800.0, 700.0])
    to_mm = np.linalg.inv(found.to_px)
    steps = middle + np.array([[0, 0], [10, 0], [0, 10]])
    ahead = np.column_stack((steps, np.ones(3))) @ to_mm.T
    signed, slopes = signed_blur(found, pose, fit, ahead[:, :2] / ahead[:, 2:], 1)
    # The camera's own blur, which is what was made of it.
    row, _ = made.blur_px(SLOPE)
    assert signed == pytest.approx(np.column_stack((steps, np.ones(3))) @ row, abs=0.03)
    assert (signed[1:] - signed[0]) / 10 == pytest.approx(slopes[0], abs=5e-4)


@pytest.mark.parametrize("cells", [0.5, 0.8, 1.0, 1.25])
def test_a_patch_of_the_page_is_the_light_each_pixel_gathers(cells):
    """Held against the printer's dots counted at 48 points each way in every pixel."""
    to_mm = np.array([
        [0.99 * cells * CELL_MM, -0.14 * cells * CELL_MM, SLOPE.areas[0].x + 5],
        [0.18 * cells * CELL_MM, 1.28 * cells * CELL_MM, SLOPE.areas[0].y + 20], [1e-5, 2e-4, 1],
    ])  # fmt: skip
    found = FoundSheet(sheet=SLOPE, ids=(), to_px=np.linalg.inv(to_mm), size_px=(800, 800))
    side, points = 24, 48
    inner = (np.arange(side * points) + 0.5) / points - 0.5
    across, down = (one.ravel() for one in np.meshgrid(inner, inner))
    ahead = to_mm @ np.stack((across, down, np.ones_like(across)))
    column, row = np.floor(ahead[:2] / ahead[2] / DOT_MM).astype(int)
    gathered = dots_of(SLOPE)[row, column].reshape(side, points, side, points).mean(axis=(1, 3)) / 255
    patch = page_patch(found, np.array([0, 0]), 1, side, exact=True)
    assert float(np.std(patch - gathered)) < 0.0125


def test_sheets_on_one_wall_tell_its_plane_together():
    made = camera(distance_mm=950.0, slope_deg=3.0, turned_deg=-4.0, roll_deg=2.0)
    sheets = []
    for number in (1, 2, 3):
        placed = made.before((213.0 * (number - 2), 0.0, 0.0))
        sheet = wall_sheet(SheetPaper.A4, number)
        places = np.array(sheet.mark_mm) + np.array([[-60, -80], [60, -80], [-60, 80], [60, 80.0]])
        sheets.append((found_by(placed, sheet), places))
    plane = shared_plane(sheets, image_mm=made.image_mm, width_mm=36.0)
    normal = made.rotation()[:, 2]
    mark = made.rays() @ np.array([(SIZE[0] - 1) / 2, (SIZE[1] - 1) / 2, 1]) * made.distance_mm
    assert plane == pytest.approx(normal / float(normal @ mark), rel=1e-4, abs=1e-8)


def test_a_camera_before_another_sheet_keeps_lens_and_film():
    made = camera(tilt_deg=3.0, tip_deg=-2.0, slope_deg=5.0, turned_deg=8.0, roll_deg=4.0, plane_mm=25.0)
    other = made.before((130.0, -70.0, 40.0))
    assert other.image_mm == pytest.approx(made.image_mm, rel=1e-9)
    moved = np.array([*SLOPE.mark_mm, 1.0]) + np.array([130.0, -70.0, 0.0])
    flat = made.before((130.0, -70.0, 0.0))
    at = made.to_px(SLOPE) @ moved
    seen = flat.to_px(SLOPE) @ np.array([*SLOPE.mark_mm, 1.0])
    assert seen[:2] / seen[2] == pytest.approx(at[:2] / at[2], abs=1e-6)
    # One plane of focus for both: it meets the axis at the same place.
    assert other.axis_focus_mm == pytest.approx(made.axis_focus_mm, rel=1e-9)


@pytest.mark.parametrize(("deg", "name"), [(0.0, "level"), (90.0, "upright"), (45.0, "falling to the right")])
def test_the_direction_of_motion_is_named(deg, name):
    from tests.core.testshot.test_slope import read

    words = " ".join(read(camera(shake_px=8.0, shake_deg=deg)).warnings)
    assert f"px ({name})" in words


def test_a_small_print_is_said_as_small_as_it_is():
    from tests.core.testshot.test_slope import read

    words = " ".join(read(camera(print_scale=0.94)).warnings)
    share = int(words.split("print at about ")[1].split(" %")[0])
    assert share == pytest.approx(94, abs=2)


def test_millimetres_on_the_sheet_count_up_away_from_the_camera():
    texts = {one.text: one.y for one in target_page(SLOPE, 1).items if isinstance(one, Text)}
    assert texts["10"] < SLOPE.mark_mm[1] < texts["−10"]


def test_neighbours_may_be_as_good_and_the_best_is_named_still():
    random = np.random.default_rng(1)
    kept = np.array([-1.0, -0.02, 0.0, -0.6])[:, None] + random.normal(0, 0.1, (4, 60))
    _, best = compared([2.0, 2.8, 4.0, 5.6], kept)
    assert best in (2.8, 4.0)
    alike = np.array([-0.01, -0.6, 0.0, -0.6])[:, None] + random.normal(0, 0.1, (4, 60))
    assert compared([2.0, 2.8, 4.0, 5.6], alike)[1] is None


def test_a_shake_is_not_seen_in_a_still_picture():
    from tests.core.testshot.test_slope import read

    still = camera()
    assert not any("motion" in one for one in read(still, shot(replace(still, seed=9))).warnings)
