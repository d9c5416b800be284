"""The slip at dusk: a mooring post with its lashing, and lamps over the water."""

from __future__ import annotations

import numpy as np
from world import HEMP, Transform, World, curves, mesh, noise, rope, sheet, sky, surface, turned, wood


def world() -> World:
    """Return the scene."""
    rng = np.random.default_rng(12)
    made = World(
        name="dusk", camera=(0.0, -2.6, 1.5), aim=(-0.05, 1.0, 1.2), fov_deg=36,
        target=(-0.3, -0.13, 1.18), focal_lengths=(25.0, 70.0), target_name="the lashing on the post", brightness=0.06, exposure=2.3,
        spots={"the far lamps": (2.0, 34.0, 3.0)},
    )  # fmt: skip
    made.add(sky((0.018, 0.03, 0.065), (0.105, 0.075, 0.065), clouds=1.1, seed=9))
    waves = 0.022 * noise(rng, 700, 700, along=0.9, across=3.4, steep=1.7)
    x, y = np.meshgrid(np.linspace(-1, 1, 700), np.linspace(0, 1, 700) ** 2)
    deep = 0.4 + 79.6 * y
    water = np.stack((x * (4 + 0.7 * deep), deep, waves * (0.5 + 0.02 * deep)), axis=-1)
    made.add(
        sheet(
            water,
            bsdf={
                "type": "roughconductor",
                "alpha": 0.04,
                "specular_reflectance": {"type": "rgb", "value": [0.5, 0.55, 0.6]},
            },
        )
    )
    colour, relief = wood(rng, tone=0.55)
    angle = np.linspace(0, 2 * np.pi, 200)
    rise = np.linspace(-0.6, 1.62, 160)[:, None]
    radius = (
        0.2
        + 0.006 * noise(rng, 160, 200, along=0.4, across=6, steep=1.0)
        - 0.05 * np.clip((rise - 1.55) / 0.07, 0, 1) ** 2
    )
    post = np.stack((-0.3 + radius * np.cos(angle), 0.08 + radius * np.sin(angle), rise + 0 * angle), axis=-1)
    made.add(sheet(np.swapaxes(post, 0, 1), bsdf=surface(colour, roughness=0.75, bump=relief, bump_scale=0.02)))
    made.add(
        turned(np.array([[0.0, 0.0], [0.15, 0.0]]), (-0.3, 0.08, 1.615), bsdf=surface((0.2, 0.15, 0.1), roughness=0.8))
    )
    lines = []
    for k in range(6):
        turn = np.linspace(0, 2 * np.pi * 1.03, 300) + rng.uniform(0, 6)
        path = np.column_stack(
            (-0.3 + 0.232 * np.cos(turn), 0.08 + 0.232 * np.sin(turn), 1.02 + 0.057 * k + 0.006 * np.sin(turn * 2 + k))
        )
        lines += rope(rng, path, 0.028, fibres=60)
    sag = np.linspace(0, 1, 200)[:, None]
    lines += rope(
        rng,
        np.array([-0.12, 0.2, 1.15]) + sag * [5.2, 7.5, 0.5] - np.array([0, 0, 0.75]) * (sag * (1 - sag)),
        0.026,
        fibres=40,
    )
    made.add(curves(lines, HEMP))
    made.add({"type": "sphere", "center": [-2.2, -3.4, 3.1], "radius": 0.22,
              "emitter": {"type": "area", "radiance": {"type": "rgb", "value": [16, 10.5, 5.5]}}})  # fmt: skip
    wall = surface((0.05, 0.045, 0.04), roughness=0.9)
    made.add({"type": "cube", "bsdf": wall, "to_world": Transform().translate([0, 42, 0.4]).scale([60, 1.5, 0.55])})
    for _ in range(15):
        at, wide, eaves = rng.uniform(-26, 26), rng.uniform(1.8, 3.6), rng.uniform(1.8, 3.0)
        made.add(_shed(at, 46 + rng.uniform(0, 6), wide, eaves, eaves + wide * rng.uniform(0.55, 0.9), wall))
        if rng.random() < 0.7:
            made.add(_glow((at + rng.uniform(-0.6, 0.6) * wide, 43.2, rng.uniform(1.3, eaves)), 0.15, rng))
    for k in range(15):
        made.add(
            _glow((-20 + 2.9 * k + rng.normal() * 0.8, 34 + rng.uniform(-2, 6), rng.uniform(2.2, 3.4)), 0.085, rng)
        )
    mast = surface((0.12, 0.09, 0.06), roughness=0.7)
    for at, away, high in ((1.6, 9.0, 6.0), (3.6, 14.0, 8.0), (-2.6, 17.0, 7.5)):
        made.add(
            {"type": "cylinder", "p0": [at, away, -0.2], "p1": [at + 0.1, away, high], "radius": 0.055, "bsdf": mast}
        )
        hull = np.linspace(-1, 1, 60)[:, None]
        drop = np.linspace(0, 1, 14)[None, :]
        flare = 1.9 * hull * (1 - 0.13 * drop)
        side = np.stack(
            (
                at + flare,
                away - 0.6 * (1 - np.abs(hull) ** 2.5) * (1 - 0.5 * drop**2),
                0.55 + 0.3 * np.abs(hull) ** 3 - 0.8 * drop,
            ),
            axis=-1,
        )
        made.add(sheet(side, bsdf=surface((0.10, 0.13, 0.15), roughness=0.5)))
        rail = np.column_stack((side[:, 0] + [0, -0.02, 0.01], np.full(60, 0.035)))
        made.add(curves([rail], surface((0.3, 0.27, 0.22), roughness=0.5)))
        made.add(_glow((at - 0.5, away - 0.2, 1.35), 0.03, rng))
    return made


def _shed(at: float, away: float, wide: float, eaves: float, ridge: float, bsdf: dict[str, object]) -> object:
    """Return a boat shed that turns its gable to the water."""
    front = np.array([[-1, 0], [-1, eaves], [0, ridge], [1, eaves], [1, 0]])
    points = np.array([[at + wide * x, away + deep, z] for deep in (-2.0, 6.0) for x, z in front])
    faces = [
        [0, 1, 4],
        [1, 3, 4],
        [1, 2, 3],
        [0, 5, 6],
        [0, 6, 1],
        [3, 8, 9],
        [3, 9, 4],
        [1, 6, 7],
        [1, 7, 2],
        [2, 7, 8],
        [2, 8, 3],
    ]
    return mesh(points[np.array(faces)].reshape(-1, 3), np.arange(3 * len(faces)).reshape(-1, 3), bsdf=bsdf)


def _glow(at: tuple[float, float, float], radius: float, rng: np.random.Generator) -> dict[str, object]:
    warm = np.array([1.0, rng.uniform(0.52, 0.8), rng.uniform(0.2, 0.5)]) * rng.uniform(14, 42)
    return {"type": "sphere", "center": list(at), "radius": radius,
            "emitter": {"type": "area", "radiance": {"type": "rgb", "value": warm.tolist()}}}  # fmt: skip
