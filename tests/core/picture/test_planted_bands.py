"""Bands of other stuff than scenes are made of, each out of focus by another disc: the sharpest is named.

Print, grass, rectangles, tiles, clouds and leaves; the bands fade into grey between them, as a seam would be an edge.
"""

import cv2
import numpy as np
import pytest

from tests.core.picture.test_sharpness_map import leaves
from welotrope.core.picture.sharpness_map import sharpness_map

HEIGHT, WIDTH, BANDS = 600, 900, 5
PAD = 40


def print_of(shape, rng):
    page = np.full(shape, 255, np.uint8)
    for y in range(10, shape[0], 22):
        letters = "".join(rng.choice(list("abcdefghijklmnoprstuvxyzABCDEKLMNRST   "), shape[1] // 8))
        cv2.putText(page, letters, (int(rng.integers(-40, 0)), y), cv2.FONT_HERSHEY_SIMPLEX, 0.55, 0, 1, cv2.LINE_AA)
    return (page / 255).astype(np.float32)


def grass(shape, rng):
    found = np.full(shape, 0.4, np.float32)
    for _ in range(shape[0] * shape[1] // 300):
        x, y = rng.integers(0, shape[1]), rng.integers(0, shape[0])
        reach, lean = rng.uniform(15, 70), rng.normal(-np.pi / 2, 0.4)
        end = int(x + reach * np.cos(lean)), int(y + reach * np.sin(lean))
        cv2.line(found, (int(x), int(y)), end, float(rng.random()), int(rng.integers(1, 4)), cv2.LINE_AA)
    return found


def rectangles(shape, rng):
    found = np.full(shape, 0.5, np.float32)
    for _ in range(shape[0] * shape[1] // 900):
        x, y = int(rng.integers(0, shape[1])), int(rng.integers(0, shape[0]))
        wide, high = (int(side) for side in rng.integers(4, 60, 2))
        cv2.rectangle(found, (x, y), (x + wide, y + high), float(rng.random()), -1)
    return found


def tiles(shape, rng):
    side, turn = int(rng.integers(14, 40)), rng.uniform(0.05, 0.4)
    y, x = np.mgrid[: shape[0], : shape[1]]
    across, down = x * np.cos(turn) + y * np.sin(turn), y * np.cos(turn) - x * np.sin(turn)
    return ((across // side + down // side) % 2).astype(np.float32)


def clouds(shape, rng):
    """Of every size alike: no edge anywhere."""
    frequency = np.hypot(*np.meshgrid(np.fft.fftfreq(shape[0]), np.fft.fftfreq(shape[1]), indexing="ij"))
    frequency[0, 0] = 1
    found = np.fft.ifft2(np.fft.fft2(rng.standard_normal(shape)) / frequency).real
    return np.clip(0.5 + 0.2 * (found - found.mean()) / found.std(), 0, 1).astype(np.float32)


def foliage(shape, rng):
    return leaves(int(rng.integers(1000)))[: shape[0], : shape[1]]


def disc(picture, diameter):
    """Blur as a lens does, by a disc drawn eight times finer."""
    if diameter == 0:
        return picture
    side = int(np.ceil(diameter)) // 2 * 2 + 3
    y, x = np.mgrid[: 8 * side, : 8 * side]
    fine = ((x - 4 * side + 0.5) ** 2 + (y - 4 * side + 0.5) ** 2 <= (4 * diameter) ** 2).astype(np.float32)
    kernel = cv2.resize(fine, (side, side), interpolation=cv2.INTER_AREA)
    return cv2.filter2D(picture, -1, kernel / kernel.sum(), borderType=cv2.BORDER_REFLECT)


def banded(stuff, focused, step, rng, contrast=0.6, noise=0.02, quality=85):
    """A JPEG of upright bands, the blur growing by a disc of ``step`` pixels a band away from the one in focus."""
    wide = WIDTH // BANDS
    at = np.arange(wide) + 0.5
    shown = np.clip(np.minimum(at, wide - at) / wide / 0.12 - 0.3, 0, 1)
    bands = []
    for band in range(BANDS):
        made = disc(stuff((HEIGHT + 2 * PAD, wide + 2 * PAD), rng), abs(band - focused) * step)
        bands.append(0.5 + contrast * (made[PAD:-PAD, PAD:-PAD] - 0.5) * shown[None, :])
    picture = cv2.GaussianBlur(np.hstack(bands).astype(np.float32), (0, 0), 0.45)
    picture += noise * np.sqrt(picture) * rng.standard_normal(picture.shape).astype(np.float32)
    grey = np.clip(picture * 255, 0, 255).astype(np.uint8)
    return cv2.imdecode(cv2.imencode(".jpg", grey, [cv2.IMWRITE_JPEG_QUALITY, quality])[1], cv2.IMREAD_GRAYSCALE)


@pytest.mark.parametrize("stuff", [print_of, grass, rectangles, tiles, clouds, foliage])
def test_the_band_in_focus_is_named_whatever_it_is_made_of(stuff):
    rng = np.random.default_rng(12)
    for focused in range(BANDS):
        found = sharpness_map(banded(stuff, focused, 8.0, rng))
        assert int(found.places[0].x * BANDS) == focused


@pytest.mark.parametrize(("contrast", "noise", "quality"), [(0.2, 0.01, 95), (0.9, 0.05, 70), (0.4, 0.03, 85)])
def test_it_is_named_or_the_next_in_noise_and_little_contrast(contrast, noise, quality):
    rng = np.random.default_rng(13)
    stuffs = (print_of, grass, rectangles, tiles, clouds)
    off = [
        abs(int(sharpness_map(banded(stuff, at, 4.0, rng, contrast, noise, quality)).places[0].x * BANDS) - at)
        for at, stuff in enumerate(stuffs)
    ]
    assert max(off) <= 1
    assert off.count(0) >= 4
