"""The rails of the Teal: varnished rails and ropes that all run level, one behind the other, before the lake."""

from __future__ import annotations

import numpy as np
from shores import lake
from world import HEMP, Transform, World, curves, lamp, noise, rope, sheet, sky, surface, wood

_RAIL_Z, _EYE_Z = 0.98, 1.30


def world() -> World:
    """Return the scene."""
    rng = np.random.default_rng(57)
    made = World(
        name="deck", camera=(0.0, -2.1, _EYE_Z), aim=(0.0, 0.0, 0.985), fov_deg=36,
        target=(0.0, -0.052, _RAIL_Z), focal_lengths=(35.0, 75.0), target_name="the varnished rail", brightness=0.8,
        exposure=0.9, spots={"the rope in front": (0.0, -0.42, 0.76), "the rail behind": (0.0, 0.55, 1.07)},
    )  # fmt: skip
    made.add(
        sky((0.40, 0.52, 0.70), (0.92, 0.90, 0.86), clouds=0.7, seed=11),
        lamp((-2.6, -3.2, 3.4), (0, 0, 1), 0.7, (30, 27, 22)),
    )
    made.add(_rail(rng, 0.0, _RAIL_Z, (0.055, 0.030), tone=0.62, fine=True))
    made.add(_rail(rng, 0.58, 1.075, (0.045, 0.026), tone=0.40))
    made.add(_rail(rng, 1.35, 1.02, (0.060, 0.045), tone=0.75, painted=(0.60, 0.58, 0.52)))
    made.add(_rail(rng, 2.5, 0.93, (0.05, 0.030), tone=0.45))
    made.add(_rail(rng, -0.52, 0.62, (0.085, 0.036), tone=0.9, painted=(0.035, 0.15, 0.14)))
    made.add(_rail(rng, 0.12, 0.70, (0.02, 0.075), tone=0.7, painted=(0.58, 0.56, 0.48)))
    across = np.linspace(-1, 1, 260)[:, None]
    lines = rope(rng, np.array([0, -0.42, 0.745]) + across * [2.2, 0, 0], 0.017, fibres=70)
    lines += rope(rng, np.array([0, 0.30, 0.90]) + across * [2.6, 0, 0], 0.012, fibres=50)
    lines += rope(rng, np.array([0, 1.0, 1.13]) + across * [3.2, 0, 0], 0.012, fibres=30)
    made.add(curves(lines, HEMP))
    for x, y, top, radius in ((-1.02, 0.02, 0.96, 0.030), (1.05, 0.02, 0.96, 0.030), (-1.35, 0.58, 1.06, 0.026),
                              (1.5, 0.58, 1.06, 0.026), (2.0, 1.35, 1.0, 0.035), (-1.9, 1.35, 1.0, 0.035)):  # fmt: skip
        made.add({"type": "cylinder", "p0": [x, y, 0.0], "p1": [x, y, top], "radius": radius,
                  "bsdf": surface((0.50, 0.49, 0.44), roughness=0.35, clearcoat=0.5)})  # fmt: skip
    _deck(made, rng)
    lake(made, rng, level=-1.2, first=2.0)
    return made


def _rail(rng: np.random.Generator, y: float, z: float, half: tuple[float, float], *, tone: float,
          painted: tuple[float, float, float] | None = None, fine: bool = False) -> object:  # fmt: skip
    """Return a rail across the frame: half its depth and height, metres, its corners rounded; varnished or painted."""
    turn = np.linspace(0, 2 * np.pi, 120)
    blunt = lambda v: np.sign(v) * np.abs(v) ** 0.5  # noqa: E731 - a square with rounded corners
    along = np.linspace(-3.2, 3.2, 200)
    points = np.stack(np.broadcast_arrays(
        along[None, :], (y - half[0] * blunt(np.cos(turn)))[:, None], (z + half[1] * blunt(np.sin(turn)))[:, None]
    ), axis=-1)  # fmt: skip
    rows, columns = (1600, 9000) if fine else (700, 4000)
    colour, relief = wood(rng, rows=rows, columns=columns, tone=tone, light=(0.72, 0.40, 0.17), dark=(0.27, 0.12, 0.04))
    streak = noise(rng, rows, columns, along=60, steep=0.55)[..., None]
    if painted is None:
        pores = np.clip(noise(rng, rows, columns, along=45, steep=0.45) - 1.5, 0, 1)[..., None]
        colour = np.clip(colour * (1 + 0.10 * streak) * (1 - 0.55 * pores), 0.005, 1)
        return sheet(points, bsdf=surface(colour, roughness=0.28, clearcoat=0.8, clearcoat_gloss=0.9, bump=relief,
                                          bump_scale=0.004))  # fmt: skip
    cracks = np.clip(noise(rng, rows, columns, along=70, steep=0.7) - 1.9, 0, 1)[..., None]
    bare = np.clip((noise(rng, rows, columns, along=9, steep=1.0)[..., None] - 1.55) * 5, 0, 1)
    paint = np.array(painted) * (1 + 0.05 * streak) * (1 - 0.6 * cracks)
    return sheet(points, bsdf=surface(np.clip(paint * (1 - bare) + colour * bare, 0.005, 1), roughness=0.42,
                                      clearcoat=0.25, bump=0.3 * relief - 0.6 * cracks[..., 0] - 0.4 * bare[..., 0],
                                      bump_scale=0.010))  # fmt: skip


def _deck(made: World, rng: np.random.Generator) -> None:
    for k in range(16):
        colour, relief = wood(rng, rows=256, columns=2048, tone=0.8 + 0.2 * rng.random(), light=(0.62, 0.53, 0.40),
                              dark=(0.40, 0.33, 0.24))  # fmt: skip
        made.add({"type": "cube", "bsdf": surface(colour, roughness=0.75, bump=relief, bump_scale=0.02),
                  "to_world": Transform().translate([0, -1.6 + 0.165 * k, 0.05]).scale([3.5, 0.079, 0.02])})  # fmt: skip
