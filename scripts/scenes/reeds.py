"""A damselfly on a reed, near life size; more reeds behind."""

from __future__ import annotations

import numpy as np
from world import (
    BY_POINT,
    World,
    carved,
    curves,
    ellipsoid,
    grid_faces,
    joined,
    lamp,
    mesh,
    sheet,
    sky,
    solid_noise,
    surface,
)

_HEAD = np.array([-0.35, -0.06, 1.0])  # a scene ten times life size


def world() -> World:
    """Return the scene."""
    rng = np.random.default_rng(33)
    made = World(
        name="reeds", camera=(-0.1, -4.6, 1.05), aim=(0.02, 0.0, 0.98), fov_deg=27,
        target=(float(_HEAD[0] - 0.03), float(_HEAD[1] - 0.105), float(_HEAD[2] + 0.015)), focal_lengths=(9.0, 20.0), target_name="the damselfly’s eye", exposure=1.0,
        spots={"the tip of its wing": (1.0, 0.12, 1.2)},
    )  # fmt: skip
    made.add(
        sky((0.30, 0.42, 0.52), (0.75, 0.78, 0.66), clouds=0.6, seed=7),
        lamp((3.5, 1.5, 6.0), (0, 0, 1), 0.9, (44, 40, 30)),
    )
    blades = [_blade(rng, -0.22, 0.09, lean=(0.12, 0.02), wide=0.075)]
    for k in range(620):
        near = k < 9
        x, y = (
            rng.uniform(-1.6, 1.6) if near else rng.uniform(-12, 12),
            rng.uniform(-0.9, 1.6) if near else rng.uniform(2.2, 30),
        )
        if near and abs(y) < 0.5 and x < 1.2:
            continue
        blades.append(_blade(rng, x, y))
    made.add(joined(blades, bsdf=surface(BY_POINT, roughness=0.45)))
    back = np.stack(np.meshgrid(np.linspace(-40, 40, 2), np.linspace(-10, 30, 2)), axis=-1)
    bank = np.concatenate((back[..., :1], np.full((2, 2, 1), 34.0), back[..., 1:]), axis=2)
    made.add(sheet(bank, bsdf=surface((0.035, 0.055, 0.025), roughness=1.0)))
    _insect(made, rng)
    return made


def _blade(
    rng: np.random.Generator, x: float, y: float, *, lean: tuple[float, float] | None = None, wide: float | None = None
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    lean = (rng.normal(0, 0.3), rng.normal(0, 0.15)) if lean is None else lean
    wide = rng.uniform(0.05, 0.11) if wide is None else wide
    t = np.linspace(0, 1, 200)[:, None]
    s = np.linspace(-1, 1, 13)[None, :]
    high = rng.uniform(3.2, 5.0)
    half = wide * (1 - t**4)
    face = rng.uniform(-0.6, 0.6)
    px = x + lean[0] * (t * high - 1.7) * 0.9 + 0.25 * lean[0] * t**2 + half * s * np.cos(face)
    py = y + lean[1] * (t * high - 1.7) + half * s * np.sin(face) + 0.35 * half * s**2
    points = np.stack((px, py, -0.8 + high * t + 0 * s), axis=-1)
    veins = 0.5 + 0.5 * np.sin(26 * s + 0 * t)
    young = np.array([rng.uniform(0.085, 0.15), 0.19, rng.uniform(0.03, 0.06)]) * rng.uniform(0.5, 1.15)
    dry = np.array([0.36, 0.30, 0.15])
    patch = np.clip(
        solid_noise(rng, np.concatenate((points.reshape(-1, 3) * [6, 6, 0.8],)), waves=30, low=0.4, high=2).reshape(
            200, 13, 1
        )
        - 1.0,
        0,
        1,
    )
    mottle = solid_noise(rng, points.reshape(-1, 3) * [9, 9, 3], waves=40, low=0.5, high=4).reshape(200, 13, 1)
    colour = (young * (0.72 + 0.4 * veins[..., None]) * (1 + 0.14 * mottle)) * (1 - patch) + dry * patch
    return points.reshape(-1, 3), grid_faces(200, 13), np.clip(colour, 0.01, 1).reshape(-1, 3)


def _insect(made: World, rng: np.random.Generator) -> None:
    shell = surface(BY_POINT, roughness=0.28, clearcoat=1.0, clearcoat_gloss=0.9)
    for middle, radii, tone, bands in (
        ((0, 0, 0), (0.075, 0.085, 0.07), (0.03, 0.22, 0.32), 0.0),
        ((0.19, 0.0, 0.015), (0.15, 0.085, 0.1), (0.025, 0.25, 0.36), 30.0),
    ):
        points, faces = carved(
            lambda p, middle=middle, radii=radii: ellipsoid(p, np.array(middle), np.array(radii))
            + 0.004 * np.sin(60 * p[:, 0]) * np.sin(50 * p[:, 2]),
            np.array(middle) - 0.22, np.array(middle) + 0.22, 130,
        )  # fmt: skip
        stripe = (
            np.where(np.sin(bands * points[:, 2] + 2.0) > 0.5, 0.08, 1.0)[:, None]
            if bands
            else np.ones((len(points), 1))
        )
        fine = solid_noise(rng, points, waves=60, low=10, high=60)[:, None]
        made.add(
            mesh(
                points + _HEAD, faces, bsdf=shell, colours=np.clip(np.array(tone) * stripe * (1 + 0.1 * fine), 0.003, 1)
            )
        )
    lines, dark = [], []
    for k in range(9):  # the abdomen, segment by segment
        first = np.array([0.30 + 0.145 * k, 0.0, 0.015 - 0.012 * k])
        along = np.linspace(0, 1, 24)[:, None]
        path = first + along * [0.142, 0, -0.012]
        radius = 0.031 * (1 - 0.12 * np.sin(np.pi * along)) * (1 + 0.25 * (k > 6))
        (dark if k % 2 else lines).append(np.column_stack((path + _HEAD, radius)))
    made.add(curves(lines, surface((0.02, 0.26, 0.42), roughness=0.25, clearcoat=1.0)))
    made.add(curves(dark, surface((0.008, 0.02, 0.025), roughness=0.3, clearcoat=1.0)))
    for side in (-1, 1):  # compound eyes
        middle = np.array([-0.03, 0.078 * side, 0.015])
        points, faces = carved(
            lambda p, middle=middle: ellipsoid(p, middle, np.array([0.05, 0.052, 0.052])),
            middle - 0.07,
            middle + 0.07,
            110,
        )
        off = (points - middle) / 0.05
        facets = np.sin(150 * np.arctan2(off[:, 1], off[:, 0])) * np.sin(150 * off[:, 2])
        band = np.clip(0.5 + 2.2 * off[:, 2], 0, 1)[:, None]
        tone = np.array([0.03, 0.12, 0.16]) * band + np.array([0.16, 0.26, 0.12]) * (1 - band)
        made.add(mesh(points + _HEAD, faces, bsdf=surface(BY_POINT, roughness=0.2, clearcoat=1.0, clearcoat_gloss=0.97),
                      colours=np.clip(tone * (1 + 0.25 * facets[:, None]), 0.002, 1)))  # fmt: skip
    legs = []
    for k in range(3):
        for side in (-1, 1):
            t = np.linspace(0, 1, 40)[:, None]
            foot = np.array([0.10 + 0.10 * k - 0.06, 0.13 * side * 0 + 0.12, -0.2 - 0.05 * k])
            knee = np.array([0.10 + 0.09 * k, 0.13 * side, -0.12])
            hip = np.array([0.1 + 0.07 * k, 0.04 * side, -0.05])
            path = (1 - t) ** 2 * hip + 2 * t * (1 - t) * knee + t**2 * foot
            legs.append(np.column_stack((path + _HEAD, np.full(40, 0.0085))))
            for h in range(14):
                at = path[4 + 2 * h]
                out = rng.normal(size=3) * 0.02 + [0, 0.01 * side, -0.02]
                legs.append(
                    np.column_stack((at + np.linspace(0, 1, 6)[:, None] * out + _HEAD, np.linspace(0.002, 0.0006, 6)))
                )
    for _ in range(90):  # hairs on the back
        way = rng.normal(size=3)
        way /= np.linalg.norm(way)
        at = np.array([0.19, 0, 0.015]) + way * [0.15, 0.085, 0.1]
        legs.append(
            np.column_stack((at + np.linspace(0, 1, 6)[:, None] * way * 0.045 + _HEAD, np.linspace(0.0016, 0.0004, 6)))
        )
    made.add(curves(legs, surface((0.012, 0.014, 0.016), roughness=0.35, clearcoat=0.7)))
    for side, lift in ((-1, 0.20), (1, 0.26)):
        _wing(made, rng, side, lift)


def _wing(made: World, rng: np.random.Generator, side: int, lift: float) -> None:
    t, s = np.linspace(0, 1, 80)[:, None], np.linspace(-1, 1, 25)[None, :]
    half = 0.15 * np.sin(np.pi * np.clip(t * 0.93 + 0.06, 0, 1)) ** 0.55
    x = 0.22 + 1.15 * t + 0 * s
    z = 0.09 + lift * t + half * s * 0.95 - 0.05 * t**2
    y = 0.03 * side + 0.07 * side * t + 0.012 * np.sin(9 * s + 14 * t)
    points = np.stack((x, y + 0 * x, z), axis=-1) + _HEAD
    made.add(
        sheet(
            points,
            bsdf={"type": "mask", "opacity": 0.16, "bsdf": surface((0.75, 0.8, 0.78), roughness=0.12, clearcoat=1.0)},
        )
    )
    veins = []
    for row in (0, 5, 9, 13, 17, 20, 24):
        veins.append(np.column_stack((points[:, row], np.full(80, 0.0052 if row in (0, 24) else 0.0034))))
    for column in range(4, 80, 3):
        veins.append(np.column_stack((points[column], np.full(25, 0.0021))))
    made.add(curves(veins, surface((0.03, 0.03, 0.028), roughness=0.4)))
    mark = points[66:72, 19:24].reshape(-1, 3)
    made.add(curves([np.column_stack((mark[:6], np.full(6, 0.012)))], surface((0.02, 0.02, 0.02), roughness=0.5)))
