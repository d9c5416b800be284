"""Launch day on the quay: people who look at the new ship, at many distances, one of them in a white hat."""

from __future__ import annotations

import numpy as np
from people import figure
from shores import lake
from world import HEMP, Transform, World, curves, lamp, noise, rope, sheet, sky, surface, wood

_WHITE = (0.22, 0.0)
_CROWD = (  # across, away, taller by, coat, hat, its colour, hair, turned
    (-0.66, -1.75, 1.02, (0.10, 0.075, 0.05), "cap", (0.09, 0.085, 0.08), (0.10, 0.06, 0.03), 14),
    (0.84, -1.15, 0.97, (0.055, 0.075, 0.055), "knitted", (0.20, 0.05, 0.04), (0.20, 0.11, 0.05), -8),
    (*_WHITE, 0.98, (0.045, 0.060, 0.095), "brim", (0.74, 0.72, 0.66), (0.13, 0.07, 0.03), 5),
    (-0.52, 0.75, 1.01, (0.14, 0.13, 0.12), "brim", (0.10, 0.08, 0.06), (0.25, 0.22, 0.19), -10),
    (1.0, 1.65, 1.03, (0.105, 0.045, 0.04), "cap", (0.12, 0.11, 0.09), (0.07, 0.045, 0.03), 12),
    (-1.25, 2.3, 0.96, (0.06, 0.085, 0.11), "knitted", (0.30, 0.26, 0.18), (0.22, 0.13, 0.06), 18),
    (0.38, 3.4, 1.0, (0.11, 0.10, 0.075), "cap", (0.06, 0.06, 0.06), (0.12, 0.09, 0.06), -4),
    (-0.35, 4.9, 0.98, (0.19, 0.15, 0.10), "brim", (0.16, 0.12, 0.07), (0.10, 0.06, 0.03), 8),
    (2.2, 4.4, 1.0, (0.07, 0.07, 0.085), "cap", (0.13, 0.12, 0.11), (0.2, 0.18, 0.15), -16),
)


def world() -> World:
    """Return the scene."""
    rng = np.random.default_rng(71)
    brim = (_WHITE[0] - 0.02, _WHITE[1] - 0.10, 1.605)
    made = World(
        name="quay", camera=(0.0, -4.4, 1.66), aim=(0.08, 0.0, 1.52), fov_deg=31, target=brim, focal_lengths=(45.0, 110.0),
        target_name="the ribbon of the white hat", exposure=0.9,
        spots={"the cap in front": (-0.66, -1.85, 1.66), "the ship": (0.5, 9.0, 2.0)},
    )  # fmt: skip
    made.add(
        sky((0.38, 0.50, 0.68), (0.90, 0.88, 0.84), clouds=0.8, seed=31),
        lamp((-4.5, -4.0, 5.5), (0, 0, 1.4), 1.2, (28, 25, 20)),
    )
    for x, y, size, coat, hat, tone, hair, turn in _CROWD:
        figure(made, rng, (x, y, 0.44 * size), scale=size, coat=coat, hat=hat, hat_colour=tone, hair=hair, turn_deg=turn,
               fine=190 if y == _WHITE[1] else 130)  # fmt: skip
    _ship(made, rng)
    for k in range(60):
        colour, relief = wood(
            rng,
            rows=128,
            columns=1024,
            tone=0.75 + 0.25 * rng.random(),
            light=(0.58, 0.50, 0.39),
            dark=(0.34, 0.29, 0.21),
        )
        made.add({"type": "cube", "bsdf": surface(colour, roughness=0.8, bump=relief, bump_scale=0.02),
                  "to_world": Transform().translate([0, -4.5 + 0.205 * k, -0.03]).scale([8, 0.1, 0.03])})  # fmt: skip
    lake(made, rng, level=-1.0, first=8.0)
    return made


def _ship(made: World, rng: np.random.Generator) -> None:
    """Put the side of a ship on the slip, its planks lapping, with shrouds, a rail and a string of flags."""
    along = np.linspace(-7, 7, 300)
    for k in range(9):
        _, relief = wood(rng, rows=128, columns=4000, tone=0.6)
        worn = noise(rng, 128, 4000, along=4, steep=1.0)[..., None]
        paint = np.array((0.030, 0.120, 0.115) if k < 7 else (0.60, 0.56, 0.46)) * (1 + 0.07 * worn)
        low, high = 0.55 + 0.26 * k, 0.55 + 0.26 * (k + 1) + 0.03
        sheer = 0.010 * along**2
        belly = 0.20 * np.sin(np.pi * (k + 1) / 11)
        rows = [
            np.stack((along, 9.4 - belly + 0.012 * along**2 - 0.03 * out, z + sheer), axis=-1)
            for z, out in ((high, 0.0), (low, 1.0), (low, 0.0))
        ]
        made.add(
            sheet(
                np.stack(rows),
                bsdf=surface(np.clip(paint, 0.01, 1), roughness=0.4, clearcoat=0.4, bump=relief, bump_scale=0.01),
            )
        )
    rail = np.column_stack((along, 9.35 + 0.012 * along**2, 2.99 + 0.010 * along**2, np.full(300, 0.05)))
    made.add(curves([rail], surface((0.36, 0.19, 0.08), roughness=0.35, clearcoat=0.7)))
    lines = []
    for x in (-2.6, -2.2, -1.8, 2.9, 3.3, 3.7):
        top = -2.2 if x < 0 else 3.3
        lines.append(
            np.column_stack(
                (
                    np.linspace(x, top + 0.1 * (x - top), 30),
                    np.full(30, 9.5),
                    np.linspace(2.9, 8.5, 30),
                    np.full(30, 0.014),
                )
            )
        )
    made.add(curves(lines, surface((0.06, 0.05, 0.045), roughness=0.9)))
    for x in (-2.2, 3.3):
        made.add({"type": "cylinder", "p0": [x, 10.2, 2.0], "p1": [x, 10.2, 10.0], "radius": 0.13,
                  "bsdf": surface((0.50, 0.30, 0.14), roughness=0.35, clearcoat=0.6)})  # fmt: skip
    share = np.linspace(0, 1, 120)[:, None]
    sag = np.array([-7.0, 8.8, 4.6]) + share * [14.0, 0.4, 0.5] - np.sin(np.pi * share) * [0, 0, 0.9]
    made.add(curves(rope(rng, sag, 0.012, fibres=0), HEMP))
    for k in range(6, 116, 7):
        x, y, z = sag[k]
        u, v = np.meshgrid(np.linspace(0, 1, 24), np.linspace(0, 1, 16))
        half = 0.19 * (1 - 0.9 * v)
        flag = np.stack((x + (u - 0.5) * 2 * half, y + 0.04 * np.sin(5 * v + 3 * u + k), z - 0.46 * v), axis=-1)
        made.add(sheet(flag, bsdf=surface(_FLAGS[k % len(_FLAGS)], roughness=0.8)))


_FLAGS = ((0.45, 0.04, 0.03), (0.62, 0.58, 0.48), (0.04, 0.10, 0.24), (0.60, 0.40, 0.06))
