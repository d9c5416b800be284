"""A rowing boat that comes at the camera over the lake, its rower's back ahead; the boat is rendered apart from the water."""

from __future__ import annotations

import numpy as np
from people import figure
from shores import lake
from world import World, curves, lamp, noise, sheet, sky, surface, wood

_BOW_Y, _LONG, _BROAD, _HIGH, _STRAKES = 0.0, 3.9, 0.66, 0.44, 5
_WATER = 0.0
_BALL = (0.0, _BOW_Y - 0.045, _HIGH * 1.26 - 0.03)


def world() -> World:
    """Return the scene."""
    made = stays()
    rng, ball = np.random.default_rng(19), _BALL
    for k in range(_STRAKES):
        for side in (-1, 1):
            made.add(_strake(rng, k, side))
    along = np.linspace(0, 1, 200)
    oak = surface((0.32, 0.17, 0.07), roughness=0.3, clearcoat=0.8)
    for side in (-1, 1):
        rail = _on_hull(along, np.full(200, 1.0), 0.008, side)
        made.add(curves([np.column_stack((rail, np.full(200, 0.016)))], oak))
    stem = np.linspace(-0.3, 1.06, 40)
    post = np.column_stack((np.zeros(40), _BOW_Y + 0.12 * (1 - stem) - 0.006, _HIGH * 1.26 * stem))
    made.add(curves([np.column_stack((post, np.full(40, 0.027)))], oak))
    made.add({"type": "sphere", "center": list(ball), "radius": 0.040,
              "bsdf": surface((0.80, 0.78, 0.72), roughness=0.35, clearcoat=0.3)})  # fmt: skip
    ring = np.linspace(0, 2 * np.pi, 60)
    made.add(curves([np.column_stack((0.0405 * np.cos(ring), np.full(60, ball[1]), ball[2] + 0.0405 * np.sin(ring), np.full(60, 0.004)))],
                    surface((0.06, 0.06, 0.06), roughness=0.5)))  # fmt: skip
    for y, z in ((0.85, 0.30), (1.75, 0.28), (3.0, 0.30)):
        colour, relief = wood(rng, rows=128, columns=1024, tone=0.8)
        half = 0.62 * _broad(np.array([(y - _BOW_Y) / _LONG]))[0] / _BROAD
        u, v = np.meshgrid(np.linspace(-half, half, 60), np.linspace(0, 0.22, 12))
        made.add(
            sheet(
                np.stack((u, y + v, z + 0 * u), axis=-1),
                bsdf=surface(colour, roughness=0.5, bump=relief, bump_scale=0.01),
            )
        )
    _rower(made, rng)
    return made


def stays() -> World:
    """Return what of the scene stays where it is: the lake."""
    made = World(
        name="boat", camera=(0.0, -13.0, 0.86), aim=(0.0, 0.0, 0.86), fov_deg=36, target=(_BALL[0], _BALL[1] - 0.04, _BALL[2]),
        focal_lengths=(300.0, 420.0), target_name="the bow ball of the boat", exposure=0.9, comes_in_s=(6.5, 9.5),
    )  # fmt: skip
    made.add(
        sky((0.36, 0.47, 0.64), (0.90, 0.84, 0.74), clouds=0.9, seed=41),
        lamp((-26, -30, 30), (0, 0, 0.5), 6.0, (34, 29, 22)),
    )
    lake(made, np.random.default_rng(20), level=_WATER, first=-14.0, deep=90.0, ripples=0.12, fine=0.0, pixels=4096)
    return made


def _broad(u: np.ndarray) -> np.ndarray:
    return _BROAD * (1 - (1 - np.clip(u, 0, 1)) ** 2.3) * (1 - 0.30 * np.clip(u, 0, 1) ** 4)


def _on_hull(u: np.ndarray, v: np.ndarray, out: float | np.ndarray, side: int) -> np.ndarray:
    """Return points on the planks: from the bow aft and from below the water up, 0 to 1, and how far out, metres."""
    full = _broad(u) * (0.45 + 0.55 * np.clip(v, 0, 1) ** 0.7)
    sheer = _HIGH * (1 + 0.26 * (1 - u) ** 2 + 0.05 * u**2) * v - 0.12 * (1 - v)
    back = _BOW_Y + 0.12 * (1 - v) * (1 - u) + _LONG * u
    return np.stack((side * (full + out), back, sheer), axis=-1)


def _strake(rng: np.random.Generator, k: int, side: int) -> object:
    rows, columns = 30, 400
    u, t = np.meshgrid(np.linspace(0, 1, columns), np.linspace(0, 1, rows))
    low = k / _STRAKES - (0.03 if k else 0.15)
    v = low + t * ((k + 1) / _STRAKES - low)
    points = np.concatenate((_on_hull(u[:1], v[:1], 0.0 * u[:1], side), _on_hull(u, v, 0.014 * (1 - t), side)))
    grain, relief = wood(rng, rows=200, columns=3000, tone=0.8)
    worn = noise(rng, 200, 3000, along=4, steep=1.0)
    base = (0.030, 0.075, 0.125) if k == _STRAKES - 1 else (0.66, 0.64, 0.57)
    paint = np.array(base) * (1 + 0.05 * worn[..., None])
    rim = np.clip(1 - np.minimum(np.arange(200), np.arange(200)[::-1]) / 12, 0, 1)[:, None]
    bare = np.clip((worn + 1.2 * rim - 2.2) * 5, 0, 1)[..., None]
    return sheet(points, bsdf=surface(np.clip(paint * (1 - bare) + grain * bare, 0.01, 1), roughness=0.35, clearcoat=0.5,
                                      bump=0.3 * relief - bare[..., 0], bump_scale=0.008))  # fmt: skip


def _rower(made: World, rng: np.random.Generator) -> None:
    """Seat someone in the boat, their back to where it goes, with an oar in each hand."""
    seat = np.array([0.0, 1.85, -0.17])
    arms = [
        (np.array([0.185 * s, 0.02, 0.905]), np.array([0.27 * s, 0.14, 0.72]), np.array([0.22 * s, 0.40, 0.62]))
        for s in (-1, 1)
    ]
    figure(made, rng, tuple(seat), coat=(0.24, 0.22, 0.17), hat="cap", hat_colour=(0.10, 0.085, 0.06), hair=(0.16, 0.09, 0.04),
           skirt=0.0, arms=arms, fine=200, lean_deg=-6)  # fmt: skip
    spruce = surface((0.55, 0.38, 0.19), roughness=0.35, clearcoat=0.7)
    share = np.linspace(0, 1, 60)[:, None]
    for side in (-1, 1):
        hand, blade = np.array([0.20 * side, 2.26, 0.46]), np.array([2.35 * side, 1.30, 0.02])
        path = hand + share * (blade - hand)
        made.add(curves([np.column_stack((path, np.full(60, 0.022)))], spruce))
        u, v = np.meshgrid(np.linspace(0, 1, 40), np.linspace(-1, 1, 14))
        way = (blade - hand) / np.linalg.norm(blade - hand)
        wide = 0.075 * np.clip(4 * u, 0, 1) ** 0.5
        face = blade + (0.55 * u - 0.35)[..., None] * way + (wide * v)[..., None] * np.array([0, 0.35, 0.94])
        made.add(sheet(face, bsdf=spruce))
        lock = _on_hull(np.array([0.50]), np.array([1.0]), 0.0, side)[0]
        made.add({"type": "cylinder", "p0": list(lock), "p1": list(lock + [0, 0, 0.09]), "radius": 0.010,
                  "bsdf": surface((0.25, 0.23, 0.2), roughness=0.4, metallic=0.9)})  # fmt: skip
