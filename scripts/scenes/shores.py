"""The lake and its far shore, which lie behind many scenes."""

from __future__ import annotations

import numpy as np
from world import BY_POINT, Transform, World, noise, sheet, surface


def lake(
    made: World, rng: np.random.Generator, *, level: float, first: float, deep: float = 40.0, ripples: float = 0.10,
    fine: float = 0.06, pixels: int = 2048,
) -> None:  # fmt: skip
    """Put water at a level from so far away on, metres, rippled for a way, and wooded hills behind it.

    Parameters
    ----------
    deep
        How far into the picture it is rippled, metres.
    ripples, fine
        How high the ripples are, and how rough.
    pixels
        Across and down, of the picture of their relief.
    """
    water = noise(rng, pixels, pixels, along=0.6, across=2.6, steep=1.7 if fine else 2.1)
    water += fine * noise(rng, pixels, pixels, steep=1.2)
    made.add({"type": "rectangle", "to_world": Transform().translate([0, first + deep / 2, level]).scale([40, deep / 2, 1]),
              "bsdf": surface((0.030, 0.045, 0.050), roughness=0.10, specular=0.6, bump=water, bump_scale=ripples)})  # fmt: skip
    made.add({"type": "rectangle", "to_world": Transform().translate([0, first + 118, level - 0.01]).scale([200, 100, 1]),
              "bsdf": surface((0.05, 0.07, 0.08), roughness=0.3, specular=0.6)})  # fmt: skip
    x = np.linspace(-150, 150, 3000)
    for away, high, tone in ((170, 9.0, (0.085, 0.105, 0.085)), (210, 17.0, (0.17, 0.205, 0.215))):
        trees = noise(rng, 1, 3000, along=3.0, steep=1.6)[0] * 0.16 * high + 0.45 * noise(rng, 1, 3000, steep=0.6)[0]
        ridge = 0.55 * high + np.clip(trees, -0.4 * high, None)
        share = np.linspace(1, 0, 60)[:, None]
        points = np.stack((x + 0 * share, away + 0 * x + 0 * share, ridge * share - 2 * (1 - share)), axis=-1)
        leaves = 1 + 0.28 * noise(rng, 60, 3000, across=2.0, steep=0.7)[..., None]
        made.add(
            sheet(points, bsdf=surface(BY_POINT, roughness=1.0), colours=np.clip(np.array(tone) * leaves, 0.01, 1))
        )
