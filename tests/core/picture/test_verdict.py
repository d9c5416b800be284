"""What is said of a spot, from pictures whose blur was planted there and elsewhere."""

import cv2
import numpy as np
import pytest

from tests.core.picture.test_sharpness_map import leaves
from welotrope.core.picture.picture import sharp_blur_px
from welotrope.core.picture.sharpness_map import sharpness_map
from welotrope.core.picture.verdict import SpotSharpness, at_spot, blur_at, sharpest_of
from welotrope.core.review.frame import Spot
from welotrope.demo.skarnmere import BODIES, LENSES, SETUPS

LEFT, RIGHT = Spot(0.25, 0.5), Spot(0.75, 0.5)


def judged(left_px, right_px, spot, sharp_px=0.8):
    """Leaves blurred by one standard deviation on the left and another on the right."""
    whole = leaves(4)
    half = whole.shape[1] // 2
    parts = [
        part if px == 0 else cv2.GaussianBlur(part, (0, 0), px)
        for part, px in ((whole[:, :half], left_px), (whole[:, half:], right_px))
    ]
    found = sharpness_map((np.hstack(parts) * 255).astype(np.uint8))
    grid = [[None if np.isnan(one) else one for one in row] for row in found.blur_px.tolist()]
    cell = found.cell_px / found.width_px, found.cell_px / found.height_px
    return at_spot(grid, cell, found.places, spot, sharp_px)


def test_a_sharp_spot_is_called_sharp():
    assert judged(0, 4, LEFT).seen is SpotSharpness.SHARP


def test_a_blurred_spot_is_not_while_something_else_is_sharp():
    found = judged(0, 4, RIGHT)
    assert found.seen is SpotSharpness.ELSEWHERE
    assert found.blur_px > 2
    assert found.elsewhere.x < 0.55


def test_a_spot_can_be_as_sharp_as_anything_and_still_not_sharp():
    found = judged(3, 3, LEFT)
    assert found.seen in (
        SpotSharpness.AS_SHARP_AS_ANY,
        SpotSharpness.ELSEWHERE,
    )  # the seam between the halves is an edge of its own
    assert found.blur_px > 1.5


def test_where_nothing_is_nothing_is_said():
    assert blur_at([[None, None], [None, 3.0]], Spot(0.1, 0.1), (0.5, 0.5)) is None
    assert at_spot([[None]], (1.0, 1.0), (), LEFT, 1.0).seen is SpotSharpness.UNKNOWN


@pytest.mark.parametrize(("blurs", "widths", "best"), [
    ([2.0, 0.5, 1.0], [3000, 3000, 3000], 1), ([1.0, 1.5], [1000, 6000], 1), ([None, 2.0], [10, 10], 1), ([None], [10], None),
    ([], [], None),
])  # fmt: skip
def test_the_sharpest_of_a_burst_is_told_by_its_frame_not_its_pixels(blurs, widths, best):
    assert sharpest_of(blurs, widths) == best


def test_what_the_standard_allows_is_a_quarter_of_its_disc_in_pixels():
    """0.0288 mm on 36 mm, 6000 pixels wide: a disc of 4.8 pixels."""
    from welotrope.core.kit.setup import Setup

    body, lens, standard, _ = SETUPS[0]
    setup = Setup(body=BODIES[body], lens=LENSES[lens], standard=standard)
    assert sharp_blur_px(setup, 6000, 4000) == pytest.approx(np.hypot(1.2, 0.5), abs=0.02)
    # The same picture upright, and a small copy of it.
    assert sharp_blur_px(setup, 4000, 6000) == sharp_blur_px(setup, 6000, 4000)
    assert sharp_blur_px(setup, 600, 400) < 0.6


def test_a_panorama_is_judged_where_it_was_clicked():
    """Its last cells are cut off: cells are counted by their side, not by their number."""
    flat = np.full((300, 1500), 128, np.uint8)
    flat[250:290, 700:740] = np.random.default_rng(2).integers(0, 255, (40, 40), dtype=np.uint8).repeat(1, 0)
    found = sharpness_map(flat)
    cell = found.cell_px / found.width_px, found.cell_px / found.height_px
    assert found.rows * found.cell_px != found.height_px
    grid = [[None if np.isnan(one) else one for one in row] for row in found.blur_px.tolist()]
    assert blur_at(grid, Spot(720 / 1500, 270 / 300), cell) is not None
    assert blur_at(grid, Spot(720 / 1500, 60 / 300), cell) is None
