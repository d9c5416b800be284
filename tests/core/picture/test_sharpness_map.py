"""The sharpness map against pictures whose blur was planted: dead leaves, blurred across, with noise, grain and JPEG."""

import cv2
import numpy as np
import pytest

from welotrope.core.errors import OutOfRangeError
from welotrope.core.picture.blocks import levels_of
from welotrope.core.picture.lights import lights_of
from welotrope.core.picture.sharpness_map import sharpness_map

HEIGHT, WIDTH = 800, 1200
BEST = 0.3
_LEVELS = (0, 0.5, 1, 1.5, 2, 3, 4, 6, 8, 12)


def leaves(seed, contrast=1.0):
    """Disks over disks: edges of every contrast and size, as in pictures of things."""
    rng = np.random.default_rng(seed)
    picture = np.full((HEIGHT, WIDTH), 0.5, np.float32)
    for _ in range(HEIGHT * WIDTH // 500):
        radius = int(min(3 * (1 - rng.random()) ** -0.7, 200))
        middle = (int(rng.integers(0, WIDTH)), int(rng.integers(0, HEIGHT)))
        cv2.circle(picture, middle, radius, float(0.5 + contrast * (rng.random() - 0.5)), -1, cv2.LINE_AA)
    return picture


def blurred(picture, sigma):
    """Blur by a standard deviation in pixels that differs from place to place."""
    layers = [picture if one == 0 else cv2.GaussianBlur(picture, (0, 0), one) for one in _LEVELS]
    found = np.zeros_like(picture)
    for k in range(len(_LEVELS) - 1):
        share = np.clip((sigma - _LEVELS[k]) / (_LEVELS[k + 1] - _LEVELS[k]), 0, 1)
        here = (sigma >= _LEVELS[k]) & (sigma <= _LEVELS[k + 1])
        found[here] = ((1 - share) * layers[k] + share * layers[k + 1])[here]
    return found


def planted(seed=3, contrast=1.0, noise=0.0, grain=0.0, quality=None):
    """A picture sharp at 0.3 of its width, blurred to either side, fading into flat from 0.72 to 0.8."""
    across = np.linspace(0, 1, WIDTH)[None, :] * np.ones((HEIGHT, 1))
    picture = blurred(leaves(seed, contrast), np.abs(across - BEST) * 14)
    fading = np.clip((across - 0.72) / 0.08, 0, 1)
    picture = (picture + (0.6 - picture) * fading).astype(np.float32)
    random = np.random.default_rng(seed + 1).standard_normal((HEIGHT, WIDTH)).astype(np.float32)
    if grain:
        random = cv2.GaussianBlur(random, (0, 0), grain)
        random /= random.std()
    picture = picture + noise * np.sqrt(np.clip(picture, 0.05, 1)) * random
    grey = np.clip(picture * 255, 0, 255).astype(np.uint8)
    if quality is None:
        return grey
    return cv2.imdecode(cv2.imencode(".jpg", grey, [cv2.IMWRITE_JPEG_QUALITY, quality])[1], cv2.IMREAD_GRAYSCALE)


HARD = [
    {}, {"contrast": 0.3, "noise": 0.004}, {"noise": 0.03}, {"noise": 0.06}, {"noise": 0.04, "grain": 1.2},
    {"contrast": 0.3, "noise": 0.03}, {"quality": 85}, {"noise": 0.02, "quality": 75},
]  # fmt: skip


@pytest.mark.parametrize("how", HARD, ids=str)
def test_the_sharpest_places_are_where_it_was_left_sharp(how):
    found = sharpness_map(planted(**how))
    assert len(found.places) >= 4
    assert all(abs(place.x - BEST) < 0.08 for place in found.places[:4])
    assert [place.score for place in found.places] == sorted((place.score for place in found.places), reverse=True)


@pytest.mark.parametrize("how", HARD, ids=str)
def test_noise_and_grain_are_not_called_sharp(how):
    found = sharpness_map(planted(**how))
    flat = found.scores[:, int(found.cols * 0.84) :]
    assert np.mean(np.nan_to_num(flat) > 0.5) < 0.01


@pytest.mark.parametrize("how", HARD, ids=str)
def test_scores_fall_as_the_blur_grows(how):
    found = sharpness_map(planted(**how))
    middle = np.array([np.nanmedian(found.scores[:, int(found.cols * at)]) for at in (0.3, 0.4, 0.5, 0.65)])
    assert np.all(np.diff(middle[:3]) < 0)
    assert middle[0] > 0.5  # a blur of less than 1.2 pixels, of which compression makes most
    assert middle[2:].max() < middle[0] - 0.15


@pytest.mark.parametrize("sigma", [0.8, 1.5, 3.0, 6.0])
def test_step_edges_tell_their_blur_in_pixels(sigma):
    """Wherever they fall between the pixels."""
    told = []
    for place in range(304, 308):
        picture = np.zeros((600, 600), np.float32)
        picture[:, place:] = 200
        found = sharpness_map(cv2.GaussianBlur(picture, (0, 0), sigma)).blur_px
        told.append(np.nanmedian(found[:, (place - 1) // 16 : place // 16 + 1]))
    assert np.mean(told) == pytest.approx(sigma, rel=0.15)


@pytest.mark.parametrize("degrees", [3, 20, 45, 71])
@pytest.mark.parametrize("noise", [0, 8])
def test_slanting_edges_tell_it_too_even_in_noise(degrees, noise):
    """Drawn eight times as large, blurred there and brought down by areas, as a sensor does."""
    y, x = np.mgrid[0:2400, 0:2400]
    turn = np.radians(degrees)
    away = (x - 1200) * np.cos(turn) + (y - 1200) * np.sin(turn)
    drawn = (away > 0).astype(np.float32) * 100 + 70
    for sigma in (0.7, 1.5):
        picture = cv2.resize(cv2.GaussianBlur(drawn, (0, 0), sigma * 8), (300, 300), interpolation=cv2.INTER_AREA)
        picture = picture + noise * np.random.default_rng(1).standard_normal(picture.shape)
        found = sharpness_map(np.clip(picture, 0, 255).astype(np.uint8))
        middles = np.abs(away[32::64, 32::64])[: found.rows, : found.cols]
        # Pixels are squares of one, which blur by themselves.
        assert np.nanmedian(found.blur_px[: len(middles)][:, : middles.shape[1]][middles < 24]) == pytest.approx(
            np.hypot(sigma, np.sqrt(1 / 12)), rel=0.2
        )


def lights(diameter, strength, seed=2, noise=2.0):
    """A dim evening: an edge that is blurred by 1.8 pixels, and lights beside it, spread over discs."""
    rng = np.random.default_rng(seed)
    picture = np.full((600, 900), 40, np.float32)
    picture[:, 500:] = 90
    picture = cv2.GaussianBlur(picture, (0, 0), 1.8)
    for at in [(x + rng.uniform(-9, 9), y + rng.uniform(-9, 9)) for x in (90, 200, 310) for y in (80, 220, 360, 500)]:
        spot = np.zeros((600 * 4, 900 * 4), np.float32) if diameter < 12 else None
        if spot is None:
            cv2.circle(picture, tuple(int(v) for v in at), int(diameter / 2), 40 + strength, -1, cv2.LINE_AA)
        else:
            cv2.circle(spot, tuple(int(v * 4) for v in at), max(int(diameter * 2), 1), strength, -1)
            picture += cv2.resize(spot, (900, 600), interpolation=cv2.INTER_AREA)
    picture += noise * rng.standard_normal(picture.shape).astype(np.float32)
    return np.clip(picture, 0, 255).astype(np.uint8)


@pytest.mark.parametrize("diameter", [7, 10, 16])
def test_the_rim_of_a_light_out_of_focus_is_not_called_sharp(diameter):
    """Its disc is as wide as the blur: the edge beside it is sharper, though not as steep as the rims."""
    found = sharpness_map(lights(diameter, 110))
    assert abs(found.places[0].x - 500 / 900) < 0.03
    assert np.mean(np.nan_to_num(found.scores[:, : found.cols // 2]) > 0.5) < 0.01


@pytest.mark.parametrize("side", [30, 60])
def test_a_bright_square_in_focus_is_no_light(side):
    rng = np.random.default_rng(4)
    picture = np.full((600, 900), 60, np.float32)
    picture[300 : 300 + side, 300 : 300 + side] = 200
    picture += 2 * rng.standard_normal(picture.shape).astype(np.float32)
    found = sharpness_map(np.clip(picture, 0, 255).astype(np.uint8))
    assert 300 - 12 < found.places[0].x * 900 < 300 + side + 12
    assert found.places[0].score > 0.7


def test_stars_in_focus_are_found_and_are_the_sharpest():
    found = sharpness_map(lights(1.5, 160))
    assert found.places[0].x < 0.5
    assert found.places[0].score > 0.7


def test_contrast_changes_nothing():
    full, faint = (sharpness_map(planted(contrast=one)).scores for one in (1.0, 0.25))
    both = ~np.isnan(full) & ~np.isnan(faint)
    assert np.median(np.abs(full - faint)[both]) < 0.05


@pytest.mark.parametrize("noise", [0.01, 0.05, 0.2])
def test_a_picture_of_nothing_says_nothing(noise):
    rng = np.random.default_rng(5)
    found = sharpness_map(128 + 255 * noise * rng.standard_normal((600, 900)))
    assert np.mean(np.nan_to_num(found.scores) > 0.5) < 0.01
    assert np.isnan(sharpness_map(np.full((100, 100), 7)).scores).all()


@pytest.mark.parametrize("shape", [(10, 100), (100, 100, 3), (70_000, 32)])
def test_what_is_no_picture_is_refused(shape):
    with pytest.raises(OutOfRangeError, match="pixels a side"):
        sharpness_map(np.zeros(shape, np.uint8))


@pytest.mark.parametrize("diameter", [7, 16, 40])
def test_lights_are_measured(diameter):
    levels = levels_of(lights(diameter, 110))
    found = [one for one in lights_of(levels, 255.0) if one.is_sure]
    assert 10 <= len({(round(one.x / 110), round(one.y / 140)) for one in found}) <= 12
    assert [one.diameter_px for one in found] == pytest.approx([diameter] * len(found), rel=0.1)
