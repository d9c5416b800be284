"""What is outlined as sharp, against a slanted subject whose blur is known column by column."""

import cv2
import numpy as np
import pytest

from tests.core.live.sweeps import _subject
from welotrope.core.finder.blur import disc
from welotrope.core.live.guides import sharp_or_not
from welotrope.core.live.outline import Outliner, outlined
from welotrope.core.picture.sharpness_map import sharpness_map

WIDTH, HEIGHT, MOST_PX = 960, 480, 24.0


def slanted(noise, contrast, seed=0):
    """A subject in focus along the middle, out of focus by 24 pixels at either side."""
    subject = cv2.GaussianBlur(_subject(3)[:HEIGHT, :WIDTH], (0, 0), 0.9)
    wanted = np.abs(np.arange(WIDTH) - WIDTH / 2) / (WIDTH / 2) * MOST_PX
    levels = np.arange(0, MOST_PX + 1)
    stack = np.stack([subject if level < 0.5 else cv2.filter2D(subject, -1, disc(float(level))) for level in levels])
    low = np.minimum(wanted.astype(int), len(levels) - 2)
    share = wanted - low
    columns = np.arange(WIDTH)
    mixed = (1 - share) * stack[low, :, columns].T + share * stack[low + 1, :, columns].T
    light = np.clip(0.18 * (1 + 0.6 * contrast * mixed), 0, 1)
    toned = np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055) * 255
    grainy = toned + np.random.default_rng(seed).normal(0, noise, toned.shape)
    return np.clip(np.rint(grainy), 0, 255).astype(np.uint8), wanted


@pytest.mark.parametrize(("noise", "contrast"), [(1, 0.8), (4, 0.8), (8, 0.8), (1, 0.25)])
def test_only_what_the_standard_calls_sharp_is_outlined(noise, contrast):
    outliner = Outliner()
    for seed in range(6):
        grey, wanted = slanted(noise, contrast, seed)
        found = outliner.add(grey, limit_px=5.0)
    blur = np.interp((np.arange(found.sharp.shape[1]) + 0.5) * found.cell_px, np.arange(WIDTH), wanted)
    within, without = found.known[:, blur < 4], found.sharp[:, blur > 9]
    assert found.sharp[:, blur < 4][within].mean() > 0.5
    assert without.mean() < 0.02
    assert found.sharp[:, blur < 4].mean() > 10 * without.mean()


def test_a_wider_limit_outlines_more():
    seen = sharpness_map(slanted(1, 0.8)[0])
    counts = [int(outlined(seen, limit_px=limit).sharp.sum()) for limit in (2, 5, 12)]
    assert counts == sorted(counts) and counts[0] < counts[2]


def test_a_place_is_told_sharp_or_not_in_words():
    sharp, soft = (np.ascontiguousarray(slanted(1, 0.8)[0][:, start : start + 200]) for start in (380, 60))
    assert sharp_or_not(Outliner().add(sharp, limit_px=8.0), 8.0).startswith("Sharp by the standard")
    assert sharp_or_not(Outliner().add(soft, limit_px=4.0), 4.0).startswith("Not sharp by the standard")
    nothing = Outliner().add(np.full((200, 200), 90, np.uint8), limit_px=4.0)
    assert sharp_or_not(nothing, 4.0).startswith("Nothing here can be judged")


@pytest.mark.parametrize("blur_px", [6, 8, 12])
def test_the_blur_of_a_flat_place_is_told_within_three_tenths(blur_px):
    subject = cv2.filter2D(cv2.GaussianBlur(_subject(7)[200:440, 200:440], (0, 0), 0.9), -1, disc(float(blur_px)))
    outliner = Outliner()
    for seed in range(6):
        grainy = 100 + 35 * subject[40:-40, 40:-40] + np.random.default_rng(seed).normal(0, 3, (160, 160))
        found = outliner.add(np.clip(np.rint(grainy), 0, 255).astype(np.uint8), limit_px=4.0)
    assert found.blur_px == pytest.approx(blur_px, rel=0.3)


def test_a_picture_too_coarse_for_the_standard_is_not_judged_by_it():
    found = Outliner().add(np.ascontiguousarray(slanted(1, 0.8)[0][:, 380:580]), limit_px=1.0)
    assert "too coarse" in sharp_or_not(found, 1.0)
