"""Pictures are worked on in strips, pieces and by shortcuts; none of that may show in what comes out."""

import cv2
import numpy as np
import pytest

from tests.core.picture.test_sharpness_map import lights, planted
from welotrope.core.picture import blocks, edge_profiles
from welotrope.core.picture import lights as lights_module
from welotrope.core.picture.blocks import gradients_of, levels_of
from welotrope.core.picture.lights import lights_of
from welotrope.core.picture.noise import flat_blocks, noise_of, thinned, tones_of
from welotrope.core.picture.sharpness_map import sharpness_map


def rough(height=200, width=264, seed=1):
    return np.random.default_rng(seed).integers(0, 256, (height, width)).astype(np.uint8)


def test_halved_copies_are_means_of_squares():
    picture = rough()
    for halvings, level in enumerate(levels_of(picture)):
        side = 2**halvings
        squares = picture.reshape(200 // side, side, 264 // side, side)
        assert np.allclose(level, squares.mean(axis=(1, 3)), atol=1e-3)


@pytest.mark.parametrize("halvings", [1, 2, 3])
def test_gradients_are_those_of_every_pixel_one_by_one(halvings):
    """Against Sobel's weights written out, away from the border, whose filling is OpenCV's."""
    level = levels_of(rough())[halvings].astype(float)
    side = 8 >> halvings
    smooth = level[:-2] + 2 * level[1:-1] + level[2:]
    across = np.zeros_like(level)
    across[1:-1, 1:-1] = (smooth[:, 2:] - smooth[:, :-2]) / 8 / 2**halvings
    squares = (across**2).reshape(level.shape[0] // side, side, level.shape[1] // side, side).mean(axis=(1, 3))
    found = gradients_of(levels_of(rough())[halvings], halvings)
    inner = (slice(2, -2), slice(2, -2))
    assert np.allclose(found.across[inner], squares[inner], rtol=1e-4)


@pytest.mark.parametrize("strip", [8, 5000])
def test_strips_do_not_show(strip, monkeypatch):
    picture = planted(noise=0.03)
    usual = sharpness_map(picture)
    monkeypatch.setattr(blocks, "STRIP", strip)
    monkeypatch.setattr(lights_module, "STRIP", strip)
    assert np.array_equal(sharpness_map(picture).scores, usual.scores, equal_nan=True)


def test_a_picture_that_opencv_samples_in_pieces_comes_out_the_same(monkeypatch):
    picture = planted(noise=0.03)
    usual = sharpness_map(picture)
    monkeypatch.setattr(edge_profiles, "_TILE", 256)
    assert np.array_equal(sharpness_map(picture).scores, usual.scores, equal_nan=True)


@pytest.mark.parametrize("diameter", [1.5, 7, 40])
def test_the_first_look_at_some_of_the_ring_loses_no_light(diameter, monkeypatch):
    levels = levels_of(lights(diameter, 110))
    usual = lights_of(levels, 255.0)
    monkeypatch.setattr(lights_module, "_OF_SOME", -1e6)  # all that is brighter than the mean passes
    every = lights_of(levels, 255.0)
    assert usual == every
    assert usual


def test_a_light_is_found_wherever_the_strips_meet():
    """The same light at every row, one picture each."""
    seen = set()
    for row in range(100, 180):
        picture = np.full((320, 320), 50, np.uint8)
        cv2.circle(picture, (160, row), 3, 220, -1)
        found = [one for one in lights_of(levels_of(picture), 255.0) if one.is_sure]
        assert [round(one.y - row) for one in found] == [0], row
        seen.add(round(found[0].diameter_px))
    assert seen <= {6, 7, 8}


def test_classes_of_brightness_hold_about_as_many_each():
    tones = tones_of(np.random.default_rng(2).gamma(2.0, 30.0, (300, 400)).astype(np.float32))
    assert np.bincount(tones.ravel()) / tones.size == pytest.approx([0.1] * 10, abs=0.01)


def test_the_flattest_are_found_of_every_brightness():
    energy = np.random.default_rng(3).uniform(5, 9, (120, 160)).astype(np.float32)
    energy[:, 40:60] = 1.0
    brightness = np.tile(np.linspace(0, 200, 120)[:, None], 160).astype(np.float32)
    flat = flat_blocks(energy, tones_of(brightness), 4)
    assert flat[:, 40:60].mean() > 0.9
    assert flat[:, 60:].mean() < 0.02
    assert 200 <= thinned(flat, 250).sum() <= 250
    assert not (thinned(flat, 250) & ~flat).any()


def test_noise_by_class_is_what_was_put_in():
    """Means of 64 squares of a normal law, as loud as each class was made."""
    rng = np.random.default_rng(4)
    tones = rng.integers(0, 10, 20_000).astype(np.uint8)
    energies = (rng.standard_normal((20_000, 64)) ** 2).mean(axis=1) * (1 + tones)
    known = noise_of(energies, tones, 0.0)
    # Past six times the quietest it is not believed; it scatters less than by a quarter, which is the least.
    assert known.levels[:5] == pytest.approx(np.arange(1, 6), rel=0.03)
    assert known.scatters[:5] == pytest.approx(np.arange(1, 6) / 4, rel=0.03)
    assert max(known.levels) <= 6 * min(known.levels)
    level, scatter = known.for_each(tones.reshape(100, 200))
    assert np.allclose(level.ravel(), known.levels[tones], rtol=1e-6)
    assert np.allclose(scatter.ravel(), known.scatters[tones], rtol=1e-6)


@pytest.mark.parametrize("size", [(400, 600), (403, 605)])
def test_what_fills_up_the_border_is_not_called_sharp(size):
    """Noise in the lowest row goes on as lines beyond it; the only edge lies in the middle."""
    best = []
    for seed in range(12):
        rng = np.random.default_rng(seed)
        picture = np.full(size, 110, np.float32)
        picture[150:250, 200:400] += 30
        picture = cv2.GaussianBlur(picture, (0, 0), 0.8) + 12 * rng.standard_normal(size).astype(np.float32)
        best += sharpness_map(np.clip(picture, 0, 255).astype(np.uint8)).places[:1]
    assert best
    assert all(0.25 < one.x < 0.75 and 0.3 < one.y < 0.7 for one in best)
