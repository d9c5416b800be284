"""Whether a picture is shaken: mosaics, scribble, print in other type and other letters, moved by known lengths.

None of these was used to find the limits of the core; the photographs and rendered scenes that were are not here.
"""

import itertools

import cv2
import numpy as np
import pytest

from tests.core.picture.test_finest_detail import enlarged, out_of_focus, page_of_print, recorded
from tests.core.picture.test_sharpness_map import planted
from welotrope.core.picture.shake import shake_of
from welotrope.core.picture.sharpness_map import sharpness_map

WIDTH, HEIGHT = 1400, 900


def mosaic():
    """Tiles of the nearest of many points, each of its own grey, with a fall of light across each."""
    rng = np.random.default_rng(5)
    points = rng.uniform((0, 0), (WIDTH, HEIGHT), (2500, 2))
    plan = np.full((HEIGHT, WIDTH), 255, np.uint8)
    plan[points[:, 1].astype(int), points[:, 0].astype(int)] = 0
    labels = cv2.distanceTransformWithLabels(plan, cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)[1]
    return (60 + 150 * rng.random(labels.max() + 1))[labels] + np.linspace(-20, 20, WIDTH)


def scribble():
    """Thin bent lines, as of twigs or handwriting."""
    rng = np.random.default_rng(6)
    paper = np.full((HEIGHT, WIDTH), 200, np.uint8)
    for _ in range(700):
        turns = np.cumsum(rng.normal(0, 0.5, 40)) + rng.uniform(0, 6.3)
        path = np.cumsum(np.stack([np.cos(turns), np.sin(turns)], 1) * 6, 0) + rng.uniform((0, 0), (WIDTH, HEIGHT))
        cv2.polylines(paper, [path.astype(np.int32)], False, int(rng.integers(20, 120)), 2, cv2.LINE_AA)
    return paper.astype(np.float32)


def drawn_letters():
    """Print in a type of strokes, a dozen lines of it, not level."""
    rng = np.random.default_rng(7)
    paper = np.full((HEIGHT, WIDTH), 215, np.uint8)
    for y in range(20, HEIGHT + 60, 34):
        words = "".join(rng.choice(list("ABCDEFGHKLMNOPRSTUWZ0123456789    "), 70))
        cv2.putText(paper, words, (-10, y), cv2.FONT_HERSHEY_COMPLEX, 0.8, 40, 1, cv2.LINE_AA)
    turned = cv2.getRotationMatrix2D((WIDTH / 2, HEIGHT / 2), 4, 1.15)
    return cv2.warpAffine(paper, turned, (WIDTH, HEIGHT), borderValue=215).astype(np.float32)


SHOWN = {"mosaic": mosaic(), "scribble": scribble(), "letters": drawn_letters(), "print": page_of_print(30)}


def moved(picture, length, degrees):
    """Add up the picture at steps of a quarter pixel along a line, as an open shutter does."""
    steps = np.arange(-length / 2 + 0.125, length / 2, 0.25)
    reach = int(length / 2) + 2
    kernel = np.zeros((2 * reach + 1, 2 * reach + 1))
    for x, y in zip(steps * np.cos(np.radians(degrees)), steps * np.sin(np.radians(degrees)), strict=True):
        left, top = int(np.floor(x)), int(np.floor(y))
        for column, row in itertools.product((left, left + 1), (top, top + 1)):
            kernel[reach + row, reach + column] += (1 - abs(x - column)) * (1 - abs(y - row))
    return cv2.filter2D(picture.astype(np.float64), -1, kernel / len(steps), borderType=cv2.BORDER_REFLECT)


@pytest.mark.parametrize(("shown", "length", "degrees"), list(itertools.product(SHOWN, [10, 24], [0, 35, 90])), ids=str)
def test_a_moved_picture_is_told_with_its_length_and_way(shown, length, degrees):
    shake = shake_of(recorded(moved(out_of_focus(SHOWN[shown], 0.6), length, degrees), 2, 90))
    assert shake is not None
    assert shake.length_px == pytest.approx(length, abs=1.5)
    assert abs((shake.direction_deg - degrees + 90) % 180 - 90) < 7


@pytest.mark.parametrize("shown", SHOWN)
@pytest.mark.parametrize("radius", [0.6, 2, 5, 9])
def test_a_steady_picture_is_not_called_shaken_however_far_out_of_focus(shown, radius):
    assert shake_of(recorded(out_of_focus(SHOWN[shown], radius), 2, 90)) is None


@pytest.mark.parametrize("shown", SHOWN)
def test_nor_is_one_that_is_enlarged_or_noisy_or_has_bands_of_sharpness(shown):
    assert shake_of(enlarged(recorded(SHOWN[shown])[:450, :700], 2)) is None
    assert shake_of(recorded(SHOWN[shown], 12, 75)) is None
    assert shake_of(planted(noise=0.03)) is None


@pytest.mark.parametrize("period", [7, 12, 20])
def test_bars_and_bricks_are_as_regular_and_not_shaken(period):
    y, x = np.mgrid[0:HEIGHT, 0:WIDTH]
    bricks = 90 + 80 * ((y % period > 1) & ((x + y // period % 2 * period) % (2 * period) > 1))
    bars = 60 + 120 * (x // period % 2)
    for picture in (bricks, bars):
        assert shake_of(recorded(cv2.GaussianBlur(picture.astype(np.float32), (0, 0), 0.6))) is None


@pytest.mark.parametrize(("length", "degrees"), [(9, 20), (15, 0), (15, 60), (40, 100)])
def test_nothing_in_smeared_print_is_called_sharp(length, degrees):
    found = sharpness_map(recorded(moved(page_of_print(), length, degrees)))
    assert found.shake is not None
    assert not found.softened
    assert np.nanmax(found.scores) <= 0.3
    assert all(place.score <= 0.3 for place in found.places)
    assert np.nanmin(found.blur_px) == pytest.approx(length / np.sqrt(12), rel=0.15)  # of an evenly filled line


def test_a_subject_that_moved_before_a_steady_ground_is_no_shake():
    picture = SHOWN["mosaic"].copy()
    picture[250:650, 400:900] = moved(SHOWN["scribble"], 20, 10)[250:650, 400:900]
    assert shake_of(recorded(picture)) is None


@pytest.mark.parametrize("shape", [(200, 1400), (256, 256), (900, 900)])
def test_what_shows_too_little_is_not_judged(shape):
    assert shake_of(np.full(shape, 90, np.uint8)) is None
