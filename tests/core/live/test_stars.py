"""Stars: the radius that holds half of the light of a disc, and a sweep that finds the smallest."""

import math

import cv2
import numpy as np
import pytest

from tests.core.live.sweeps import _subject
from welotrope.core.finder.blur import disc
from welotrope.core.live.gauges import StarGauge, star_of
from welotrope.core.live.passing import State
from welotrope.core.live.sweep import Change, Sweep

SIDE = 160


def sky(diameter_px, *, at=(82, 75), light=3.0, noise=2.0, seed=0, own_px=0.9):
    """A star out of focus by a disc, with another much fainter one, on a dark sky."""
    scene = np.zeros((SIDE, SIDE), np.float32)
    scene[at[1], at[0]] = 25 * light
    scene[30, 130] = 2 * light
    if diameter_px > 0.5:
        scene = cv2.filter2D(scene, -1, disc(float(diameter_px)))
    scene = cv2.GaussianBlur(scene, (0, 0), own_px) + 0.004
    toned = np.where(scene <= 0.0031308, 12.92 * scene, 1.055 * np.maximum(scene, 1e-6) ** (1 / 2.4) - 0.055) * 255
    grainy = toned + np.random.default_rng(seed).normal(0, noise, toned.shape)
    return np.clip(np.rint(grainy), 0, 255).astype(np.uint8)


@pytest.mark.parametrize("diameter_px", [8, 12, 20, 30])
def test_half_of_a_discs_light_falls_within_its_radius_over_the_root_of_two(diameter_px):
    star = star_of(sky(diameter_px, light=0.8 * math.pi / 4 * diameter_px**2 / 25))  # not so bright that it is cut off
    assert star.half_flux_px == pytest.approx(diameter_px / (2 * math.sqrt(2)), rel=0.1)
    assert (star.x, star.y) == pytest.approx((82, 75), abs=0.5)


def test_in_focus_it_is_as_small_as_the_lens_lets_it_be():
    assert star_of(sky(0, light=0.08)).half_flux_px == pytest.approx(1.18 * 0.9, abs=0.35)


def test_an_empty_sky_and_a_full_one_hold_no_star():
    assert star_of(sky(0, light=0)) is None
    assert star_of(np.full((SIDE, SIDE), 40, np.uint8)) is None


@pytest.mark.parametrize("best", [22.0, 27.5, 33.0])
def test_a_sweep_finds_where_the_star_is_smallest(best):
    sweep = Sweep(StarGauge(), sharp_px=3.0)
    readings = [sweep.add(sky(abs(index - best) * 0.7, seed=index)) for index in range(50)]
    past = next(one for one in readings if one.state is State.PAST)
    assert past.best_place == pytest.approx(best, abs=1.5)
    assert past.frame - best < 7
    assert past.best > past.sharpness > 0


def test_another_star_begins_a_sweep():
    sweep = Sweep(StarGauge())
    for seed in range(4):
        sweep.add(sky(4, seed=seed))
    assert sweep.add(sky(4, at=(30, 120), seed=9)).change in (Change.PLAIN, Change.MOVED)
    assert sweep.add(sky(4, at=(30, 120), seed=10)).change in (Change.NONE, Change.MOVED)


def test_a_texture_is_no_star():
    rope = np.ascontiguousarray(np.clip(60 + 14 * _subject(2)[300:460, 300:460], 0, 255).astype(np.uint8))
    assert star_of(rope) is None
