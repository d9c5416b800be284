"""The boatbuilder's bench: brass dividers, a glass loupe, shavings and a bronze cleat on planed wood."""

from __future__ import annotations

import numpy as np
from world import Transform, World, curves, lamp, noise, sheet, sky, surface, turned, wood

_BRASS = {"type": "roughconductor", "alpha": 0.14,
          "eta": {"type": "rgb", "value": [0.44, 0.53, 1.1]}, "k": {"type": "rgb", "value": [3.7, 2.77, 1.9]}}  # fmt: skip


def world() -> World:
    """Return the scene."""
    rng = np.random.default_rng(52)
    made = World(
        name="bench", camera=(0.0, -1.35, 0.62), aim=(-0.03, -0.02, 0.03), fov_deg=33,
        target=(-0.105, -0.163, 0.0154), focal_lengths=(14.0, 30.0), target_name="the points of the dividers", brightness=0.5, exposure=0.8,
        spots={"the rim of the loupe": (0.28, 0.16, 0.2), "the rule’s far end": (-0.6, 1.1, 0.0)},
    )  # fmt: skip
    made.add(
        sky((0.10, 0.10, 0.11), (0.16, 0.15, 0.14), clouds=0.3), lamp((-2.4, 1.6, 2.2), (0, 0, 0), 0.75, (24, 22, 19))
    )
    for k in range(-4, 12):
        colour, relief = wood(rng, tone=0.8 + 0.3 * rng.random(), light=(0.66, 0.50, 0.33), dark=(0.40, 0.27, 0.16))
        made.add({"type": "cube", "bsdf": surface(colour, roughness=0.5, bump=relief, bump_scale=0.012),
                  "to_world": Transform().translate([rng.normal() * 0.2, k * 0.3, -0.05 - 0.002 * rng.random()]).scale([3.5, 0.1485, 0.05])})  # fmt: skip
    wall, relief = wood(rng, tone=0.3)
    made.add({"type": "cube", "bsdf": surface(wall, roughness=0.8, bump=relief, bump_scale=0.03),
              "to_world": Transform().translate([0, 3.4, 0]).scale([6, 0.05, 3])})  # fmt: skip
    _dividers(made)
    _loupe(made)
    _rule(made, rng)
    for x, y in (
        (-0.3, 0.3),
        (0.42, -0.22),
        (0.05, 0.62),
        (-0.2, 0.95),
        (0.62, 0.7),
        (0.8, 1.3),
        (0.2, 1.5),
        (-0.9, 1.9),
        (0.55, 2.2),
    ):
        made.add(_shaving(rng, x + rng.normal() * 0.04, y + rng.normal() * 0.04))
    made.add(turned(np.array([[0.0, 0.0], [0.16, 0.0], [0.165, 0.01], [0.15, 0.03], [0.145, 0.2], [0.16, 0.225], [0.165, 0.24], [0.15, 0.245], [0.14, 0.21], [0.0, 0.2]]),
                    (-0.75, 0.95, 0.0), bsdf=_BRASS))  # fmt: skip
    return made


def _dividers(made: World) -> None:
    hinge = np.array([0.12, 0.22, 0.055])
    for tip in (np.array([-0.13, -0.2, 0.008]), np.array([0.035, -0.26, 0.008])):
        along = np.linspace(0, 1, 60)[:, None]
        path = tip + along * (hinge - tip)
        radius = np.interp(along[:, 0], [0, 0.05, 0.3, 0.32, 1], [0.0012, 0.005, 0.0095, 0.013, 0.02])
        steel = along[:, 0] < 0.31
        made.add(
            curves(
                [np.column_stack((path[steel], radius[steel]))],
                {"type": "roughconductor", "material": "Cr", "alpha": 0.12},
            )
        )
        made.add(curves([np.column_stack((path[~steel], radius[~steel]))], _BRASS))
    made.add(turned(np.array([[0.0, -0.03], [0.034, -0.03], [0.038, -0.022], [0.038, 0.022], [0.034, 0.03], [0.014, 0.031], [0.012, 0.04], [0.0, 0.041]]),
                    tuple(hinge), bsdf=_BRASS))  # fmt: skip


def _loupe(made: World) -> None:
    base = (0.28, 0.24, 0.0)
    made.add(turned(np.array([[0.118, 0.0], [0.125, 0.003], [0.125, 0.02], [0.112, 0.03], [0.108, 0.12], [0.115, 0.135], [0.122, 0.15],
                              [0.122, 0.19], [0.114, 0.2], [0.104, 0.2], [0.104, 0.0]]), base, bsdf=_BRASS))  # fmt: skip
    rise = np.linspace(-1, 1, 60)
    half = np.column_stack((0.104 * np.sqrt(np.clip(1 - rise**2, 0, 1)), 0.172 + 0.034 * rise))
    made.add(turned(half, base, bsdf={"type": "dielectric", "int_ior": 1.52}))


def _rule(made: World, rng: np.random.Generator) -> None:
    colour = np.tile(np.array([0.60, 0.47, 0.24]), (90, 3000, 1)) * (
        1 + 0.06 * noise(rng, 90, 3000, along=20, steep=0.8)[..., None]
    )
    for k in range(1, 200):
        long = 52 if k % 10 == 0 else 38 if k % 5 == 0 else 26
        colour[4 : 4 + long, 15 * k - 1 : 15 * k + 2] = 0.03
    u, v = np.meshgrid(np.linspace(0, 1, 50), np.linspace(0, 1, 4))
    points = np.stack((-0.33 - 0.25 * u + 0.09 * v, -0.42 + 1.5 * u + 0.015 * v, 0.006 + 0 * u), axis=-1)
    made.add(sheet(points, bsdf=surface(np.clip(colour, 0.01, 1), roughness=0.35, clearcoat=0.5)))


def _shaving(rng: np.random.Generator, x: float, y: float) -> object:
    turn = np.linspace(0, 2 * np.pi * rng.uniform(1.0, 2.6), 160)[:, None]
    across = np.linspace(-1, 1, 9)[None, :]
    radius = rng.uniform(0.03, 0.06) * (1 + 0.12 * turn)
    wide, way = rng.uniform(0.02, 0.045), rng.uniform(0, 2 * np.pi)
    local = np.stack(
        (radius * np.cos(turn) + 0 * across, across * wide + 0.018 * turn, radius * np.sin(turn) + 0 * across), axis=-1
    )
    c, s = np.cos(way), np.sin(way)
    points = local @ np.array([[c, s, 0], [-s, c, 0], [0, 0, 1]])
    points[..., 2] -= points[..., 2].min()
    colour, _ = wood(rng, rows=64, columns=512, light=(0.72, 0.56, 0.37), dark=(0.5, 0.36, 0.22))
    return sheet(points + [x, y, 0.002], bsdf=surface(colour, roughness=0.6))
