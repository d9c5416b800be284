"""One picture of a sloping sheet: where the plane fell, and when it is not to be trusted."""

import cv2
import numpy as np
import pytest

from tests.core.testshot.shots import SIZE, camera, shot
from welotrope.core.testshot.sheets import SheetPaper, row_sheet, slope_sheet
from welotrope.core.testshot.slope import ShotSettings
from welotrope.core.testshot.slope_reading import read_slope
from welotrope.core.testshot.transfer import as_shares, light_of


def read(made, picture=None, **more):
    said = {"focal_mm": made.focal_mm, "width_mm": made.width_mm, "stop": made.stop}
    return read_slope(shot(made) if picture is None else picture, ShotSettings(**(said | more)))


CASES = [
    {"plane_mm": 5.0, "tilt_deg": 1.5, "roll_deg": 8.0, "off_centre": (0.12, -0.1)},
    {"plane_mm": -12.0, "stop": 4.0, "slope_deg": 58.0, "noise": 7.0},
    {"focal_mm": 105.0, "stop": 1.8, "distance_mm": 900.0, "plane_mm": -1.5, "tilt_deg": -2.0},
    {"focal_mm": 28.0, "stop": 1.6, "distance_mm": 600.0, "plane_mm": 9.0, "slope_deg": 37.0, "roll_deg": -9.0},
    {"focal_mm": 85.0, "stop": 1.2, "distance_mm": 2500.0, "plane_mm": 20.0},
]


@pytest.mark.parametrize("case", CASES)
def test_the_plane_is_found_within_a_tenth_of_the_depth(case):
    made = camera(**case)
    found = read(made)
    depth = 2 * made.stop * 0.03 * (made.distance_mm / made.focal_mm) ** 2
    assert found.plane_mm == pytest.approx(made.plane_mm, abs=max(1.0, depth / 10))
    wide = (found.plane_high_mm - found.plane_low_mm) / 2
    assert abs(found.plane_mm - made.plane_mm) < 2 * wide  # twice a 95 % interval: one in ten thousand
    assert wide < max(0.5, depth / 10)
    middle, half = (found.tilt_high_deg + found.tilt_low_deg) / 2, (found.tilt_high_deg - found.tilt_low_deg) / 2
    assert abs(middle - made.tilt_deg) < max(0.3, 2 * half)
    assert (found.tilt_deg is None) == (half > max(0.3, 0.15 * abs(middle)))
    assert found.slope_deg == pytest.approx(made.slope_deg, abs=0.3)
    assert found.distance_mm == pytest.approx(made.distance_mm + made.image_mm, rel=0.003)
    assert found.warnings == ()


def test_a_tilt_that_is_known_too_vaguely_gets_no_figure():
    found = read(camera(focal_mm=28.0, stop=2.8, distance_mm=1800.0, tilt_deg=1.0))
    assert found.plane_mm is not None
    assert found.tilt_deg is None
    assert found.tilt_low_deg < found.tilt_high_deg


@pytest.mark.parametrize("curved_mm", [30.0, -30.0])
def test_field_curvature_moves_neither_the_plane_nor_its_tilt(curved_mm):
    made = camera(plane_mm=3.0, curved_mm=curved_mm)
    found = read(made)
    assert found.plane_mm == pytest.approx(3.0, abs=0.3)
    assert found.tilt_low_deg < 0.2
    assert found.tilt_high_deg > -0.2
    # Nearer by curved_mm at half the width, and with the square of the distance from the middle: at the page's side
    share = 105 / made.distance_mm * made.image_mm / (made.width_mm / 2)
    assert found.curved_mm == pytest.approx(-curved_mm * share**2, rel=0.25)
    assert read(camera(plane_mm=3.0)).curved_mm is None


def distorted(picture, k):
    """A picture twice as large as wanted, distorted and halved: each place is taken from ``p(1 + k p²)``."""
    height, width = picture.shape
    half = np.hypot(height, width) / 2
    down, across = np.mgrid[0:height, 0:width].astype(np.float32)
    x, y = (across - (width - 1) / 2) / half, (down - (height - 1) / 2) / half
    grown = half * (1 + k * (x**2 + y**2))
    places = [(one * grown + (side - 1) / 2).astype(np.float32) for one, side in ((x, width), (y, height))]
    moved = cv2.remap(picture, *places, cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE)
    return cv2.resize(moved, (width // 2, height // 2), interpolation=cv2.INTER_AREA)


@pytest.mark.parametrize(("k", "off_centre"), [(0.04, (0.12, 0.1)), (-0.04, (0.12, 0.1)), (0.12, (0.0, 0.0))])
def test_distortion_is_found_and_taken_out(k, off_centre):
    made = camera(plane_mm=3.0, size_px=(3600, 2400), noise=6.0, own_blur_px=1.0, off_centre=off_centre)
    found = read(made, distorted(shot(made), k))
    assert found.distortion == pytest.approx(k, abs=0.015)
    assert found.plane_mm == pytest.approx(3.0, abs=0.5)
    assert found.tilt_low_deg - 0.2 < 0 < found.tilt_high_deg + 0.2
    # Where the mark is drawn is where it is seen: twice smaller, and moved as the picture was.
    mark = (np.array(off_centre) + 0.5) * np.array([1800, 1200])
    off = (np.array(found.mark_px) - [899.5, 599.5]) / np.hypot(900, 600)
    assert [899.5, 599.5] + off * (1 + k * (off**2).sum()) * np.hypot(900, 600) == pytest.approx(mark, abs=1.5)


def test_a_fisheye_is_said_to_distort():
    made = camera(plane_mm=3.0, size_px=(3600, 2400), noise=6.0, own_blur_px=1.0)
    assert any("distorts by" in one for one in read(made, distorted(shot(made), 0.3)).warnings)
    assert read(camera()).distortion is None


def test_what_is_sharp_is_what_the_formula_says_of_a_lens_without_faults():
    made = camera(plane_mm=3.0)
    found = read(made)
    # The thin lens: where a disc of the aperture comes out 0.03 mm wide on the film.
    apart = 0.03 / (50 / 2 * made.image_mm)
    near, far = (1 / (1 / made.focus_mm + sign * apart) - 700.0 for sign in (1, -1))
    assert (found.formula_near_mm, found.formula_far_mm) == pytest.approx((near, far), abs=0.3)
    assert (found.sharp_near_mm, found.sharp_far_mm) == pytest.approx((near, far), abs=0.8)


def test_the_line_in_the_picture_runs_where_the_sheet_is_sharp():
    made = camera(plane_mm=10.0, stop=1.4, noise=0.0)
    picture = shot(made)
    (left, y1), (right, y2) = read(made, picture).plane_line_px
    x = int((left + right) / 2 + (right - left) * 0.12)
    column = picture[:, x - 60 : x + 60].astype(float)
    fine = np.abs(np.diff(column, axis=1)).mean(axis=1)
    smooth = np.convolve(fine, np.ones(41) / 41, mode="same")
    inside = slice(350, 1250)
    assert np.argmax(smooth[inside]) + 350 == pytest.approx((y1 + y2) / 2, abs=25)


def test_letter_is_told_from_a4_and_measured_alike():
    made = camera(plane_mm=4.0)
    found = read(made, shot(made, slope_sheet(SheetPaper.LETTER)))
    assert found.plane_mm == pytest.approx(4.0, abs=0.5)
    assert found.warnings == ()


def test_values_that_stand_for_light_are_measured_too():
    made = camera(plane_mm=-6.0)
    table = np.arange(256) / 255
    linear = np.where(table <= 0.04045, table / 12.92, ((table + 0.055) / 1.055) ** 2.4)
    assert read(made, (linear[shot(made)] * 65535).astype(np.float32)).plane_mm == pytest.approx(-6.0, abs=0.5)


def test_a_dark_picture_of_16_bits_is_not_taken_for_one_of_8():
    """Patches of ink hold values below 256 of 65535; what is white follows from the whole picture."""
    made = camera(plane_mm=-6.0, white=120.0)
    deep = shot(made).astype(np.float32) * 257
    found = read(made, deep)
    assert found.plane_mm == pytest.approx(read(made, shot(made)).plane_mm, abs=0.05)
    assert light_of(as_shares(np.array([[3.0, 60000.0]], np.float32))[:, :1], linear=True)[0, 0] == pytest.approx(
        3 / 65535
    )


def test_a_stop_that_is_not_known_is_not_needed():
    made = camera(plane_mm=5.0)
    found = read(made, stop=None)
    assert found.plane_mm == pytest.approx(5.0, abs=0.5)
    assert (found.formula_near_mm, found.warnings) == (None, ())


DOUBTS = {
    "shows motion blur of about": {"shake_px": 8.0, "shake_deg": 30.0},
    "overexposed": {"white": 300.0},
    "underexposed": {"white": 55.0},
    "slopes by 15°": {"slope_deg": 15.0},
    "slopes by 72°": {"slope_deg": 72.0, "size_px": (2400, 1600)},
    "fit a print at about": {"print_scale": 0.94},
    "Little of the sheet can be seen": {"off_centre": (0.0, 0.44)},
    "mark is not in the picture": {"off_centre": (0.0, -0.49)},
    "behind all that can be seen": {"plane_mm": 115.0, "stop": 4.0},
    "in front of all that can be seen": {"plane_mm": -100.0, "stop": 4.0},
    "depth of field is deeper than the sheet": {"focal_mm": 28.0, "stop": 11.0, "distance_mm": 1500.0},
}


@pytest.mark.parametrize("words", DOUBTS)
def test_doubts_are_said(words):
    made = camera(**DOUBTS[words])
    found = read(made)
    assert any(words in one for one in found.warnings), found.warnings
    assert all(one.endswith(".") for one in found.warnings)


@pytest.mark.parametrize("planted", [25.0, 75.0])
def test_a_focal_length_that_is_wrong_is_noticed(planted):
    made = camera(plane_mm=2.0)
    assert any("focal length" in one for one in read(made, focal_mm=planted).warnings)


def test_pictures_of_something_else_are_refused_in_words():
    made = camera()
    rng = np.random.default_rng(3)
    for picture, words in (
        (np.full(SIZE[::-1], 120, np.uint8), "No sheet was found"),
        (rng.integers(0, 255, SIZE[::-1]).astype(np.uint8), "No sheet was found"),
        (np.ascontiguousarray(shot(made)[:, ::-1]), "mirrored"),
        (shot(camera(slope_deg=10.0), row_sheet(SheetPaper.A4, 3)), "This is the row sheet"),
    ):
        found = read(made, picture)
        assert found.plane_mm is None
        assert words in found.warnings[0]


def test_two_sheets_are_noticed():
    far = {"distance_mm": 1500.0, "size_px": (2400, 1600)}
    made = camera(off_centre=(-0.2, 0.0), **far)
    one, other = shot(made), shot(camera(off_centre=(0.2, 0.0), **far))
    both = np.concatenate((one[:, :1200], other[:, 1200:]), axis=1)
    assert any("two sheets" in one for one in read(made, both).warnings)


def test_two_pictures_half_measure_the_same():
    """A picture turned upside down shows the same plane, its left and right exchanged."""
    made = camera(plane_mm=5.0, tilt_deg=2.0)
    picture = shot(made)
    up, down = read(made, picture), read(made, np.ascontiguousarray(picture[::-1, ::-1]))
    assert down.plane_mm == pytest.approx(up.plane_mm, abs=0.2)
    assert down.tilt_deg == pytest.approx(-up.tilt_deg, abs=0.2)
