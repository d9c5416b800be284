"""Wet pebbles at the water's edge, from very near."""

from __future__ import annotations

import numpy as np
from world import BY_POINT, World, carved, ellipsoid, joined, lamp, sheet, sky, solid_noise, surface

_TONES = ((0.16, 0.15, 0.14), (0.24, 0.17, 0.12), (0.10, 0.11, 0.12), (0.36, 0.32, 0.27), (0.20, 0.10, 0.075),
          (0.13, 0.15, 0.12), (0.45, 0.43, 0.40))  # fmt: skip


def world() -> World:
    """Return the scene."""
    rng = np.random.default_rng(8)
    target = (0.06, 0.0, 0.155)
    made = World(
        name="pebbles", camera=(0.0, -1.55, 0.75), aim=(0.05, 0.12, 0.05), fov_deg=34,
        target=target, focal_lengths=(14.0, 30.0), target_name="the banded pebble", spots={"the red pebble": (-0.3, 0.4, 0.1)}, exposure=0.9,
    )  # fmt: skip
    made.add(
        sky((0.35, 0.42, 0.5), (0.8, 0.8, 0.78), clouds=1.2, seed=4),
        lamp((2.5, 2.6, 2.4), (0, 0, 0), 0.5, (34, 31, 27)),
    )
    ground = np.stack(np.meshgrid(np.linspace(-4, 4, 260), np.linspace(-1.5, 9, 300)), axis=-1)
    height = 0.012 * solid_noise(
        rng, np.concatenate((ground.reshape(-1, 2), np.zeros((78000, 1))), axis=1), low=2, high=20
    )
    sand = np.concatenate((ground, height.reshape(300, 260, 1) - 0.02), axis=2)
    made.add(sheet(sand, bsdf=surface((0.10, 0.085, 0.07), roughness=0.35)))
    shapes = [_stone(k, 56) for k in range(16)]
    coarse = [_stone(k, 26) for k in range(16)]
    placed: list[tuple[float, float, float]] = [(0.06, 0.03, 0.16)]
    stones = [_laid(rng, _stone(0, 170), (0.06, 0.03, 0.07), 0.16, banded=True)]
    tries = 0
    while len(placed) < 620 and tries < 60000:
        tries += 1
        y = -1.0 + 8 * rng.random() ** 1.6
        x = rng.uniform(-0.75, 0.75) * (1.2 + 0.55 * (y + 1))
        size = float(np.exp(rng.normal(np.log(0.085), 0.42)))
        if any((x - px) ** 2 + (y - py) ** 2 < (0.74 * (size + ps)) ** 2 for px, py, ps in placed):
            continue
        placed.append((x, y, size))
        kind = int(rng.integers(16))
        stones.append(_laid(rng, (shapes if y < 0.9 else coarse)[kind], (x, y, 0.30 * size), size))
    made.add(joined(stones, bsdf=surface(BY_POINT, roughness=0.32, clearcoat=1.0, clearcoat_gloss=0.93)))
    return made


def _stone(number: int, count: int) -> tuple[np.ndarray, np.ndarray]:
    rng = np.random.default_rng(100 + number)
    radii = np.array([1.0, rng.uniform(0.7, 0.95), rng.uniform(0.42, 0.6)])

    def distance(points: np.ndarray) -> np.ndarray:
        bump = solid_noise(np.random.default_rng(number), points, waves=24, low=0.3, high=1.3)
        return ellipsoid(points, np.zeros(3), radii) + 0.06 * bump

    return carved(distance, np.array([-1.25] * 3), np.array([1.25] * 3), count)


def _laid(rng: np.random.Generator, stone: tuple[np.ndarray, np.ndarray], at: tuple[float, float, float], size: float,
          *, banded: bool = False) -> tuple[np.ndarray, np.ndarray, np.ndarray]:  # fmt: skip
    points, faces = stone
    turn, lean = rng.uniform(0, 2 * np.pi), rng.normal(0, 0.16, 2)
    c, s = np.cos(turn), np.sin(turn)
    moved = points @ np.array([[c, s, 0], [-s, c, 0], [0, 0, 1]])
    moved = moved + np.outer(moved[:, 0], [0, 0, lean[0]]) + np.outer(moved[:, 1], [0, 0, lean[1]])
    tone = np.array(_TONES[int(rng.integers(len(_TONES)))])
    fleck = solid_noise(rng, points, waves=90, low=4, high=45)
    stain = solid_noise(rng, points, waves=20, low=0.3, high=1.5)
    colour = tone * (1 + 0.28 * fleck[:, None] * 0.5 + 0.25 * stain[:, None])
    if banded:
        vein = np.sin(9 * points[:, 0] + 5 * points[:, 2] + 1.2 * stain + 0.3 * fleck)
        colour = np.where(vein[:, None] > 0.55, np.array([0.62, 0.58, 0.52]), np.array([0.12, 0.115, 0.12])) * (
            1 + 0.12 * fleck[:, None]
        )
    return moved * size + at, faces, np.clip(colour, 0.01, 1)
