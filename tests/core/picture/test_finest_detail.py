"""Whether detail as fine as the pixels is there: pages of print and fallen leaves, recorded, enlarged and softened.

None of these pictures was used to find the threshold. An enlargement by less than 2 is not always found: where what was
enlarged was sharp to the pixel, some of that shows.
"""

import io

import cv2
import numpy as np
import pytest
from PIL import Image, ImageDraw, ImageFont

from tests.core.picture.test_sharpness_map import leaves
from welotrope.core.picture.blocks import is_softened
from welotrope.core.picture.sharpness_map import sharpness_map

SIZE = (1500, 1000)


def page_of_print(height=21):
    """Lines of words over the whole picture, without margin."""
    rng = np.random.default_rng(41)
    page = Image.new("L", SIZE, 228)
    draw, font = ImageDraw.Draw(page), ImageFont.load_default(height)
    for y in range(-height // 2, SIZE[1], round(height * 1.3)):
        letters = "".join(rng.choice(list("aeinorstludcm    bghkpvwy.,"), 190))
        draw.text((-8, y), letters, fill=35, font=font)
    return np.asarray(page)


def out_of_focus(picture, radius):
    y, x = np.mgrid[-12:13, -12:13]
    disc = np.clip(radius + 0.5 - np.hypot(x, y), 0, 1)
    return cv2.filter2D(picture.astype(np.float32), -1, disc / disc.sum(), borderType=cv2.BORDER_REFLECT)


def recorded(picture, noise=2.0, quality=90):
    """With a sensor's noise, as a JPEG holds it."""
    noisy = picture + noise * np.random.default_rng(8).standard_normal(picture.shape)
    held = io.BytesIO()
    Image.fromarray(np.clip(noisy, 0, 255).astype(np.uint8)).save(held, "JPEG", quality=quality)
    return np.asarray(Image.open(held))


def enlarged(picture, times, by=Image.Resampling.LANCZOS):
    size = (round(picture.shape[1] * times), round(picture.shape[0] * times))
    return np.asarray(Image.fromarray(picture).resize(size, by))


SHOWN = {
    "print": out_of_focus(page_of_print(), 0.6),
    "small print": out_of_focus(page_of_print(13), 0.6),
    "leaves": out_of_focus(leaves(29) * 255, 0.6),
}


@pytest.mark.parametrize("shown", SHOWN)
@pytest.mark.parametrize(("noise", "quality"), [(0, 95), (2, 75), (2, 95), (9, 85)])
def test_what_a_camera_recorded_is_not_called_softened(shown, noise, quality):
    assert not is_softened(recorded(SHOWN[shown], noise, quality))


@pytest.mark.parametrize("shown", SHOWN)
@pytest.mark.parametrize("times", [2, 3])
def test_what_was_enlarged_is_said_to_be_and_nothing_in_it_is_called_sharp(shown, times):
    found = sharpness_map(enlarged(recorded(SHOWN[shown])[:700, :1000], times))
    assert found.softened
    assert np.nanmax(found.scores) <= 0.3
    assert all(place.score <= 0.3 for place in found.places)
    assert np.nanmin(found.blur_px) >= 0.8


@pytest.mark.parametrize("height", [18, 21, 28, 40])
def test_a_page_out_of_focus_is_nowhere_called_sharp(height):
    """Blurred by a disc of 3 pixels radius: its lines are thinner than that, and look sharper than edges would."""
    found = sharpness_map(recorded(out_of_focus(page_of_print(height), 3)))
    assert np.nanmax(found.scores, initial=0) <= 0.3


@pytest.mark.parametrize("width", [1.2, 1.6, 2.0])
def test_grain_wider_than_a_pixel_is_not_detail(width):
    grain = cv2.GaussianBlur(np.random.default_rng(17).standard_normal((800, 1200)), (0, 0), width)
    found = sharpness_map(np.clip(120 + 7 * grain / grain.std(), 0, 255).astype(np.uint8))
    assert np.nanmax(found.scores, initial=0) <= 0.3


def test_a_strip_of_sharpness_is_enough():
    """A shallow focus leaves most of a picture soft; that is no enlargement."""
    picture = out_of_focus(SHOWN["leaves"], 6)
    picture[330:500, 400:700] = SHOWN["leaves"][330:500, 400:700]
    assert not is_softened(recorded(picture))


@pytest.mark.parametrize("shape", [(100, 900), (200, 200), (1000, 1000)])
def test_what_shows_too_little_is_not_judged(shape):
    assert not is_softened(np.full(shape, 90, np.uint8))
