"""Simulated sweeps: a ring turned through focus before a flat subject, as a cheap live view shows it.

The subject is made of opaque discs of all sizes over one another with grain on them, a usual model of natural
pictures. Blur is a disc in light; then come breathing, shake, flicker, the tone curve, noise and JPEG compression.
"""

import math
from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np

from welotrope.core.finder.blur import disc

_SIDE, _SUBJECTS = 1300, 12


@dataclass(frozen=True, kw_only=True)
class SweepSettings:
    """A sweep: blur allowed (px), frames within its window, contrast 0 to 1, noise (of 255), quality of the JPEGs."""

    sharp_px: float = 4.0
    per_window: float = 10.0
    contrast: float = 0.5
    noise: float = 4.0
    quality: int = 85
    own_px: float = 0.8
    breathing: float = 0.001
    flicker: float = 0.05
    shake_px: float = 1.0
    peak: float = 0.5
    frames: int = 60
    side: int = 512
    uneven: float = 0.1
    subject: int = 0
    seed: int = 0
    halt: float = math.inf  # half windows past the best, where the hand stops


def drawn(seed):
    """A sweep as the issue's ranges allow it."""
    random = np.random.default_rng(seed)
    return SweepSettings(
        sharp_px=math.exp(random.uniform(math.log(2), math.log(8))),
        per_window=math.exp(random.uniform(math.log(4), math.log(25))), contrast=random.uniform(0.05, 0.9),
        noise=random.uniform(1, 12), quality=int(random.integers(60, 96)), own_px=random.uniform(0.6, 1.1),
        breathing=random.uniform(-0.0015, 0.0015), flicker=random.uniform(0, 0.1), shake_px=random.uniform(0, 2),
        peak=random.uniform(0.4, 0.65), subject=seed % _SUBJECTS, seed=seed,
    )  # fmt: skip


def frames_of(settings):
    """Yield where the ring stands, in half windows from the best, and the grey values of each frame."""
    random = np.random.default_rng([1, settings.seed])
    places = _places(settings, random)
    base = cv2.GaussianBlur(_subject(settings.subject), (0, 0), 2 * settings.own_px)
    phase, pace = random.uniform(0, 6), random.uniform(0.3, 3)
    for index, place in enumerate(places):
        lit = 1 + settings.flicker * math.sin(pace * index + phase)
        shown = _seen(base, place, settings, random.uniform(-1, 1, 2) * settings.shake_px)
        light = np.clip(0.18 * (1 + 0.6 * settings.contrast * shown) * lit, 0, 1)
        toned = np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055) * 255
        grey = np.clip(np.rint(toned + random.normal(0, settings.noise, toned.shape)), 0, 255).astype(np.uint8)
        packed = cv2.imencode(".jpg", grey, [cv2.IMWRITE_JPEG_QUALITY, settings.quality])[1]
        yield place, cv2.imdecode(packed, cv2.IMREAD_GRAYSCALE)


def _places(settings, random):
    """Return where the ring stands in each frame: a hand turns unevenly, but on."""
    steps = np.exp(np.cumsum(random.normal(0, settings.uneven, settings.frames)))
    places = np.cumsum(np.clip(steps / steps.mean(), 0.4, 2.5))
    places -= np.interp(settings.peak * settings.frames, np.arange(settings.frames), places)
    return np.minimum(places / settings.per_window * 2, settings.halt)


def _seen(base, place, settings, shift):
    """Return the subject blurred, scaled and shifted; it is made with two points a pixel."""
    blur = 2 * abs(place) * settings.sharp_px
    reach = math.ceil(settings.side * 1.02 + 8 + blur)  # what is farther from the middle is seen by no frame
    middle = min(reach, _SIDE // 2)
    base = base[_SIDE // 2 - middle : _SIDE // 2 + middle, _SIDE // 2 - middle : _SIDE // 2 + middle]
    if blur > 0.5:
        kernel = disc(float(blur)) if blur < 40 else np.full((int(blur), int(blur)), 1 / int(blur) ** 2)
        base = cv2.filter2D(base, -1, kernel, borderType=cv2.BORDER_REFLECT)
    scale, half = (1 + settings.breathing * place) / 2, settings.side / 2
    move = np.array([[scale, 0, half + shift[0] - scale * middle], [0, scale, half + shift[1] - scale * middle]])
    return cv2.warpAffine(
        base, move, (settings.side, settings.side), flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT
    )


@lru_cache(maxsize=_SUBJECTS)
def _subject(seed):
    random = np.random.default_rng(seed)
    picture = np.full((_SIDE, _SIDE), 0.5, np.float32)
    for _ in range(4000):
        radius = min(5 / (random.random() + 0.01), 250)
        x, y = random.random(2) * _SIDE
        cv2.circle(picture, (int(16 * x), int(16 * y)), int(16 * radius), float(random.random()), -1, cv2.LINE_AA, 4)
    picture += 0.12 * cv2.GaussianBlur(random.normal(0, 1, picture.shape).astype(np.float32), (0, 0), 1.5)
    return (picture - picture.mean()) / picture.std()
