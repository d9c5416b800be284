"""A soft grassy shore on a hazy day: fine, low in contrast, nothing for peaking to light."""

from __future__ import annotations

import numpy as np
from world import World, curves, sheet, sky, surface


def world() -> World:
    """Return the scene."""
    rng = np.random.default_rng(61)
    made = World(
        name="shore", camera=(0.0, -4.0, 1.0), aim=(0.0, 0.0, 0.38), fov_deg=30,
        target=(0.1, 0.03, 0.3), focal_lengths=(60.0, 160.0), target_name="the tuft in the middle", brightness=0.8, exposure=0.85,
        spots={"the far bank": (0.0, 26.0, 0.8)},
    )  # fmt: skip
    made.add(sky((0.75, 0.80, 0.84), (0.95, 0.95, 0.93), clouds=0.4, seed=3))
    x, y = np.meshgrid(np.linspace(-1, 1, 300), np.linspace(0, 1, 400))
    deep = -3.5 + 34 * y**1.5
    at = np.stack((x * (3 + 0.6 * (deep + 4)), deep), axis=-1).reshape(-1, 2)
    ground = _height(at).reshape(400, 300)
    soil = np.concatenate((at.reshape(400, 300, 2), ground[..., None]), axis=2)
    made.add(sheet(soil, bsdf=surface((0.17, 0.16, 0.085), roughness=1.0)))
    every: dict[int, list[np.ndarray]] = {k: [] for k in range(6)}
    for tuft in range(900):
        away = -2.6 + 26 * rng.random() ** 2.1
        middle = np.array([rng.uniform(-1, 1) * (0.9 + 0.33 * (away + 4)), away])
        if tuft and -2.2 < middle[1] < -0.08 and abs(middle[0] - 0.1) < 0.4:  # nothing stands before the tuft
            continue
        if tuft == 0:
            middle = np.array([0.1, 0.06])
        blades = 60 if tuft == 0 else int(rng.integers(14, 46)) if away < 6 else 12
        for _ in range(blades):
            foot = middle + rng.normal(0, 0.075 if tuft else 0.06, 2)
            every[int(rng.integers(6))].append(
                _blade(rng, foot, 0.62 if tuft == 0 else rng.uniform(0.25, 0.6), far=away > 6)
            )
    tones = (
        (0.24, 0.27, 0.11),
        (0.30, 0.31, 0.14),
        (0.36, 0.34, 0.18),
        (0.20, 0.24, 0.10),
        (0.42, 0.38, 0.22),
        (0.28, 0.30, 0.15),
    )
    for k, tone in enumerate(tones):
        made.add(curves(every[k], surface(tone, roughness=0.75, sheen=0.3)))
    return made


def _height(at: np.ndarray) -> np.ndarray:
    """Return how high the ground is at places, shape (n, 2); a few waves of known size, alike for one place and many."""
    x, y = at[:, 0], at[:, 1]
    waves = np.sin(1.3 * x + 0.7 * y + 1) + np.sin(2.9 * x - 1.7 * y) / 2 + np.sin(0.5 * x + 2.3 * y + 2) / 2
    return 0.03 * waves + 0.012 * np.clip(y, 0, None)


def _blade(rng: np.random.Generator, foot: np.ndarray, high: float, *, far: bool) -> np.ndarray:
    count = 7 if far else 14
    t = np.linspace(0, 1, count)[:, None]
    lean = rng.normal(0, 0.28, 2) + [0.16, 0.0]
    high *= rng.uniform(0.6, 1.15)
    ground = float(_height(foot[None])[0]) - 0.02
    path = np.concatenate(
        (foot + lean * high * t**1.8, ground + high * (t - 0.22 * np.abs(lean).sum() * t**2.5)), axis=1
    )
    radius = (0.007 if far else rng.uniform(0.0028, 0.0055)) * (1 - 0.85 * t**1.5)
    return np.concatenate((path, radius), axis=1)
