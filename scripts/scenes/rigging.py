"""Masts and rigging against the sky: a block in the foreground, shrouds and spars behind it."""

from __future__ import annotations

import numpy as np
from world import HEMP, Transform, World, curves, lamp, rope, sheet, sky, surface, wood

_BLOCK = np.array([0.25, 0.0, 2.05])


def world() -> World:
    """Return the scene."""
    rng = np.random.default_rng(41)
    made = World(
        name="rigging", camera=(0.0, -2.7, 1.35), aim=(0.05, 0.0, 2.08), fov_deg=32,
        target=(0.25, -0.079, 2.05), focal_lengths=(40.0, 120.0), target_name="the pin of the block", exposure=0.75,
        spots={"the mast": (-0.75, 0.75, 2.2), "the far masts": (1.4, 12.0, 5.4)},
    )  # fmt: skip
    made.add(
        sky((0.42, 0.55, 0.75), (0.95, 0.95, 0.93), clouds=0.5, seed=15),
        lamp((-3.5, -3.5, 3.0), (0, 0, 2), 0.6, (34, 31, 27)),
    )
    made.add(_spar(rng, (-0.75, 0.9, 0.0), (-0.72, 0.9, 6.5), 0.145, 1.0))
    made.add(_spar(rng, (-2.6, 1.0, 2.95), (3.0, 1.4, 2.5), 0.075, 0.9))
    for x, y, lean, size in (
        (1.5, 12.0, 0.12, 0.11),
        (3.6, 15.0, 0.2, 0.12),
        (-3.2, 17.0, -0.1, 0.12),
        (-5.4, 14.0, 0.1, 0.1),
    ):
        made.add(_spar(rng, (x, y, -1), (x + lean, y, 11), size, 0.8))
        made.add(_spar(rng, (x - 1.6, y, 5.3), (x + 1.7, y, 5.7), size * 0.6, 0.8))
        far = [
            np.array([[x, y, 9.8], [x + side * 1.6, y + 0.3, 2.0], [x + side * 2.4, y + 0.3, -1.0]])
            for side in (-1, -0.7, 0.7, 1)
        ]
        made.add(curves([_thread(line, 0.018) for line in far], surface((0.08, 0.07, 0.06), roughness=0.9)))
    lines = []
    for foot in (-1.7, -1.45, -1.2):
        lines += rope(
            rng, np.array([[-0.8, 0.85, 4.4], [-0.5 + foot * 0.6, 0.35, 2.3], [foot, -0.1, 0.4]]), 0.017, fibres=60
        )
    for k in range(9):  # ratlines
        z = 0.9 + 0.3 * k
        share = (4.4 - z) / 4.0
        at = [np.array([-0.8 + (foot + 0.8) * share, 0.85 - 0.95 * share, z]) for foot in (-1.78, -1.45, -1.12)]
        lines += rope(rng, np.array([at[0], at[1] - [0, 0, 0.012], at[2]]), 0.008, fibres=20)
    up = np.linspace(0, 1, 60)[:, None]
    lines += rope(rng, _BLOCK + [0.0, 0.03, 0.12] + up * [-0.35, 0.6, 2.6], 0.021, fibres=80)
    lines += rope(rng, _BLOCK + [0.055, 0.0, -0.02] + up * [0.5, -0.2, -2.0], 0.0165, fibres=80)
    lines += rope(rng, _BLOCK + [-0.055, 0.0, -0.02] + up * [-0.05, 0.4, -2.0], 0.0165, fibres=80)
    for lap in range(2):  # the strop round the block
        turn = np.linspace(0, 2 * np.pi, 160)
        ring = np.column_stack((0.115 * np.cos(turn), np.full(160, -0.022 + 0.044 * lap), 0.15 * np.sin(turn) + 0.008))
        lines += rope(rng, _BLOCK + ring, 0.0165, fibres=80)
    seize = np.linspace(0, 2 * np.pi * 7, 500)
    lines.append(
        np.column_stack(
            (
                _BLOCK[0] + 0.036 * np.cos(seize),
                _BLOCK[1] + 0.045 * np.sin(seize),
                _BLOCK[2] + 0.16 + 0.0085 * seize / 2 / np.pi,
                np.full(500, 0.0045),
            )
        )
    )
    made.add(curves(lines, HEMP))
    _block(made, rng)
    return made


def _thread(points: np.ndarray, radius: float) -> np.ndarray:
    t, whole = np.linspace(0, 1, len(points)), np.linspace(0, 1, 40)
    path = np.column_stack([np.interp(whole, t, points[:, k]) for k in range(3)])
    return np.column_stack((path, np.full(40, radius)))


def _spar(
    rng: np.random.Generator, foot: tuple[float, ...], head: tuple[float, ...], radius: float, tone: float
) -> object:
    first, last = np.array(foot), np.array(head)
    ahead = (last - first) / np.linalg.norm(last - first)
    side = np.cross(ahead, [0.2, 1.0, 0.1])
    side /= np.linalg.norm(side)
    up = np.cross(side, ahead)
    angle, along = np.linspace(0, 2 * np.pi, 90)[:, None], np.linspace(0, 1, 160)[None, :]
    out = np.cos(angle)[..., None] * side + np.sin(angle)[..., None] * up
    points = first + along[..., None] * (last - first) + radius * (1 - 0.25 * along[..., None]) * out
    colour, relief = wood(rng, tone=0.62 * tone, light=(0.60, 0.36, 0.17), dark=(0.26, 0.13, 0.055))
    return sheet(points, bsdf=surface(colour, roughness=0.3, bump=relief, bump_scale=0.0015, clearcoat=0.9))


def _block(made: World, rng: np.random.Generator) -> None:
    colour, relief = wood(rng, tone=0.75, light=(0.50, 0.30, 0.15), dark=(0.22, 0.12, 0.06))
    cheek = surface(colour, roughness=0.4, bump=relief, bump_scale=0.01, clearcoat=0.4)
    u, v = np.linspace(0, 2 * np.pi, 120)[:, None], np.linspace(-np.pi / 2, np.pi / 2, 60)[None, :]
    for y in (-0.048, 0.048):
        squash = lambda t, power: np.sign(t) * np.abs(t) ** power  # noqa: E731
        points = np.stack((
            0.105 * squash(np.cos(v), 0.5) * np.cos(u), y + 0.024 * squash(np.sin(v), 0.6) + 0 * u,
            0.14 * squash(np.cos(v), 0.5) * np.sin(u)
        ), axis=-1)  # fmt: skip
        made.add(sheet(points + _BLOCK, bsdf=cheek))
    brass = {"type": "roughconductor", "material": "Cu", "alpha": 0.22}
    made.add(
        {
            "type": "cylinder",
            "p0": list(_BLOCK + [0, -0.078, 0]),
            "p1": list(_BLOCK + [0, 0.078, 0]),
            "radius": 0.018,
            "bsdf": brass,
        }
    )
    made.add(
        {
            "type": "disk",
            "bsdf": brass,
            "to_world": Transform().translate(list(_BLOCK + [0, -0.078, 0])).rotate([1, 0, 0], 90).scale(0.018),
        }
    )
    ring = np.linspace(0, 2 * np.pi, 80)
    made.add(
        curves(
            [
                np.column_stack(
                    (
                        _BLOCK[0] + 0.03 * np.cos(ring),
                        np.full(80, _BLOCK[1] - 0.0755),
                        _BLOCK[2] + 0.03 * np.sin(ring),
                        np.full(80, 0.004),
                    )
                )
            ],
            brass,
        )
    )
