"""The simulated camera against a lens taken apart: the mean of what every point of its aperture sees."""

import cv2
import numpy as np
import pytest

from tests.core.testshot.shots import camera
from welotrope.core.testshot import camera as made
from welotrope.core.testshot.sheets import DOT_MM, SheetPaper, dots_of, slope_sheet

SHEET = slope_sheet(SheetPaper.A4)


def light_through_the_aperture(shot, points=250):
    """Each point of the aperture is a pinhole whose picture is shifted so that the plane of focus stays."""
    page = made.INK + (made.PAPER - made.INK) / 255 * dots_of(SHEET).astype(np.float32)
    blurred = cv2.resize(page, None, fx=0.125, fy=0.125, interpolation=cv2.INTER_AREA)
    dot = DOT_MM * page.shape[1] / blurred.shape[1]
    rotation, shift = shot.rotation(), shot.shift(SHEET)
    width, height = shot.size_px
    px = shot.image_mm / shot.pitch_mm
    radius = shot.focal_mm / shot.stop / 2
    turn = np.pi * (3 - np.sqrt(5))
    total = np.zeros((height, width), np.float64)
    for k in range(points):
        away = radius * np.sqrt((k + 0.5) / points)
        x, y = away * np.cos(k * turn), away * np.sin(k * turn)
        # Seen from (x, y, 0), the plane z = focus must come out where it does from the middle.
        camera_matrix = np.array(
            [
                [px, 0, (width - 1) / 2 + px * x / shot.focus_mm],
                [0, px, (height - 1) / 2 + px * y / shot.focus_mm],
                [0, 0, 1],
            ]
        )
        held = np.column_stack((rotation[:, 0], rotation[:, 1], shift - np.array([x, y, 0])))
        to_px = camera_matrix @ held @ np.array([[dot, 0, dot / 2], [0, dot, dot / 2], [0, 0, 1]])
        fine = np.array([[3, 0, 1], [0, 3, 1], [0, 0, 1.0]])
        seen = cv2.warpPerspective(
            blurred, fine @ to_px, (3 * width, 3 * height), flags=cv2.INTER_LINEAR, borderValue=made.AROUND
        )
        total += cv2.resize(seen, (width, height), interpolation=cv2.INTER_AREA)
    return total / points


@pytest.mark.parametrize("plane", [-25.0, 15.0])
def test_blur_is_that_of_a_thin_lens(plane):
    shot = camera(size_px=(480, 320), stop=1.4, plane_mm=plane, roll_deg=6, off_centre=(0.08, -0.05), own_blur_px=0.0)
    light, (left, top) = made._sharp(SHEET, shot)
    whole = np.full((320, 480), made.AROUND, np.float32)
    whole[top : top + light.shape[0], left : left + light.shape[1]] = made._blurred(light, (left, top), SHEET, shot)
    truth = light_through_the_aperture(shot)
    inner = np.s_[30:-30, 30:-30]
    assert np.abs(whole - truth)[inner].mean() < 0.006  # of a contrast of 0.8
    assert np.corrcoef(whole[inner].ravel(), truth[inner].ravel())[0, 1] > 0.998


def test_the_mark_lies_where_it_was_put_and_as_far():
    shot = camera(off_centre=(0.1, -0.12), roll_deg=-7, slope_deg=50)
    mark = shot.to_px(SHEET) @ np.array([*SHEET.mark_mm, 1.0])
    width, height = shot.size_px
    assert mark[:2] / mark[2] == pytest.approx([(width - 1) / 2 + 0.1 * width, (height - 1) / 2 - 0.12 * height])
    assert mark[2] == pytest.approx(700.0)


def test_nothing_is_blurred_in_the_plane_of_focus_and_its_lean_is_right_for_farther():
    shot = camera(tilt_deg=4.0, plane_mm=6.0, off_centre=(0.1, 0.05))
    slope, _ = shot.blur_px(SHEET)
    seen = shot.rays()
    rotation, shift = shot.rotation(), shot.shift(SHEET)
    for x, y in ((30.0, 60.0), (105.0, 148.5), (180.0, 220.0)):
        place = rotation[:, :2] @ np.array([x, y]) + shift
        px = np.linalg.solve(seen, place / place[2])
        mark = rotation[:, :2] @ np.array(SHEET.mark_mm) + shift
        focus = shot.focus_mm + np.tan(np.radians(4.0)) * (place[0] - mark[0])
        side = float(px / px[2] @ slope)
        assert np.sign(side) == np.sign(place[2] - focus)
        wide = 50 / 2 * shot.image_mm / shot.pitch_mm * abs(1 / place[2] - 1 / (focus + np.tan(np.radians(4)) * 0))
        assert abs(side) == pytest.approx(wide, rel=0.12, abs=0.05)  # along the ray, not along the axis


def test_exposure_noise_and_shake():
    quiet = made.picture_of(SHEET, camera(noise=0, white=200, size_px=(600, 400)))
    assert np.percentile(quiet, 99) == pytest.approx(200, abs=3)
    loud = made.picture_of(SHEET, camera(noise=6, white=200, size_px=(600, 400)))
    assert np.std(loud.astype(float) - quiet) == pytest.approx(6, rel=0.05)
    shaken = made.picture_of(SHEET, camera(noise=0, white=200, size_px=(600, 400), shake_px=9))
    across, down = (np.abs(np.diff(shaken.astype(float), axis=axis)).mean() for axis in (1, 0))
    assert across < 0.6 * down
