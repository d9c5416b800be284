"""The bow of the Teal: painted planks that lap over one another, worn letters on a curve, a line to the shore."""

from __future__ import annotations

import cv2
import numpy as np
from world import (  # fmt: skip
    HEMP,
    Transform,
    World,
    curves,
    lamp,
    noise,
    rope,
    sheet,
    sky,
    surface,
    turned,
    wood,
)

_STEM = np.array([-0.62, -0.50, -0.45])
_AFT = np.array([0.80, 0.60, 0.0])  # along the keel, away from the bow
_OUT = np.array([0.60, -0.80, 0.0])  # to the side that is seen
_LONG, _BROAD, _HIGH, _STRAKES = 2.6, 0.62, 0.95, 6
_LAP, _PROUD = 0.025, 0.013
# Strokes of the letters, boxes and a slant, in hundredths of their height from the lower left.
_LETTERS = {
    "T": ([(0, 84, 70, 100), (27, 0, 43, 84), (0, 72, 9, 84), (61, 72, 70, 84), (15, 0, 55, 8)], []),
    "E": (
        [(6, 0, 22, 100), (6, 84, 64, 100), (22, 44, 48, 57), (6, 0, 66, 16), (55, 72, 64, 84), (57, 16, 66, 28)],
        [],
    ),
    "A": ([(18, 30, 58, 43), (0, 0, 22, 8), (52, 0, 78, 8)], [((8, 0), (36, 100)), ((66, 0), (42, 100))]),
    "L": ([(6, 0, 22, 100), (6, 0, 62, 16), (0, 92, 30, 100), (53, 16, 62, 32)], []),
}


def world() -> World:
    """Return the scene."""
    rng = np.random.default_rng(83)
    letter = _on_hull(np.array([0.297]), np.array([0.945]), 0.004)[0]
    made = World(
        name="bow", camera=(-1.05, -2.75, 0.78), aim=(-0.22, -0.42, 0.20), fov_deg=35, target=tuple(letter),
        focal_lengths=(22.0, 60.0), target_name="the A of the name", exposure=0.95,
        spots={"the ring in the stem": tuple(_STEM + [-0.03, -0.03, 0.70]),
               "the L of the name": tuple(_on_hull(np.array([0.333]), np.array([0.945]), 0.004)[0])},
    )  # fmt: skip
    made.add(
        sky((0.34, 0.44, 0.58), (0.74, 0.75, 0.74), clouds=0.9, seed=9),
        lamp((2.6, -2.6, 2.6), (0, 0, 0), 0.5, (26, 23, 18)),
    )
    for k in range(_STRAKES):
        made.add(_strake(rng, k))
    along = np.linspace(0.0, 1.0, 240)
    oak = surface((0.23, 0.125, 0.055), roughness=0.35, clearcoat=0.7, clearcoat_gloss=0.9)
    for level, out, thick in ((1.005, 0.018, 0.021), (0.995 - 1 / _STRAKES, 0.016, 0.010)):
        rail = _on_hull(along, np.full(240, level), out)
        made.add(curves([np.column_stack((rail, np.full(240, thick)))], oak))
    made.add(_stem_post(rng))
    _ring_and_line(made, rng)
    _shore(made, rng)
    return made


def _on_hull(u: np.ndarray, v: np.ndarray, out: float | np.ndarray) -> np.ndarray:
    """Return points on the planks: from the bow aft and from the keel up, 0 to 1, and how far they stand out, metres."""
    rake = 0.16 * np.clip(v, 0, None) ** 2.2
    full = 1 - (1 - np.clip(u, 0, 1)) ** 2.1
    broad = _BROAD * full * (0.30 + 0.70 * np.clip(v, 0, None) ** 0.8) * (1 - 0.12 * u)
    sheer = _HIGH * v * (1 + 0.16 * (1 - u) ** 2)
    back = _LONG * u - rake * (1 - u)
    return _STEM + back[..., None] * _AFT + (broad + out)[..., None] * _OUT + np.stack((0 * v, 0 * v, sheer), axis=-1)


def _stem_post(rng: np.random.Generator) -> object:
    rise, turn = np.linspace(-0.05, 1.07, 90), np.linspace(0, 2 * np.pi, 60)
    middle = _on_hull(np.zeros(90), rise, 0.0) - 0.018 * _AFT
    round_off = lambda x: np.sign(x) * np.abs(x) ** 0.45  # noqa: E731 - a square with rounded corners
    across, along = 0.030 * round_off(np.sin(turn)), 0.048 * round_off(np.cos(turn))
    points = middle[:, None] + across[None, :, None] * _OUT + along[None, :, None] * _AFT
    colour, relief = wood(rng, rows=512, columns=1024, tone=0.8, dark=(0.17, 0.085, 0.035), light=(0.42, 0.24, 0.11))
    return sheet(
        points.transpose(1, 0, 2),
        bsdf=surface(colour, roughness=0.38, clearcoat=0.6, clearcoat_gloss=0.85, bump=relief, bump_scale=0.006),
    )


def _strake(rng: np.random.Generator, k: int) -> object:
    rows, columns = 40, 700
    u, t = np.meshgrid(np.linspace(0, 1, columns), np.linspace(0, 1, rows))
    low = k / _STRAKES - (_LAP if k else 0.1)
    v = low + t * ((k + 1) / _STRAKES - low)
    points = _on_hull(u, v, _PROUD * (1 - t) + 0.0015 * np.sin(31 * u + 2 * k))
    edge = _on_hull(u[:1], v[:1], 0.0 * u[:1])  # the thickness of the plank, seen from below
    points = np.concatenate((edge, points))
    return sheet(points, bsdf=_paint(rng, named=k == _STRAKES - 1, tone=1 + 0.06 * rng.normal()))


def _paint(rng: np.random.Generator, *, named: bool, tone: float) -> dict[str, object]:
    rows, columns = 640, 6000
    grain, relief = wood(rng, rows=rows, columns=columns, tone=0.85)
    colour = np.tile(np.array((0.64, 0.60, 0.49) if named else (0.030, 0.135, 0.125)) * tone, (rows, columns, 1))
    streaks = noise(rng, rows, columns, along=0.7, across=7, steep=1.2)[..., None]
    blotch = noise(rng, rows, columns, along=1.0, steep=1.5)[..., None]
    colour *= 1 + 0.05 * streaks + 0.05 * blotch
    if named:
        mask = _name(rows, columns)[..., None]
        colour = colour * (1 - mask) + np.array((0.035, 0.10, 0.09)) * (1 + 0.1 * blotch) * mask
    worn = noise(rng, rows, columns, along=3.0, steep=1.05) + 0.55 * noise(rng, rows, columns, along=16, steep=0.8)
    rim = np.clip(1 - np.minimum(np.arange(rows), np.arange(rows)[::-1]) / 26, 0, 1)[:, None]
    bare = np.clip((worn + 1.5 * rim - 2.15) * 5, 0, 1)[..., None]
    cracks = np.clip(noise(rng, rows, columns, along=60, steep=0.85) - 2.4, 0, 1)[..., None]
    rust = np.exp(-(((np.linspace(0, 1, columns) * 26) % 1 - 0.5) ** 2) / 0.002)[None, :, None]
    colour = colour * (1 - 0.25 * rust * np.linspace(0.2, 1, rows)[:, None, None]) * (1 - 0.7 * cracks)
    colour = np.clip(colour * (1 - bare) + grain * bare, 0.008, 1)
    bump = 0.25 * relief + 0.5 * (1 - bare[..., 0]) + 0.06 * blotch[..., 0] - 0.8 * cracks[..., 0]
    return surface(colour, roughness=0.42, clearcoat=0.25, bump=bump, bump_scale=0.02)


def _name(rows: int, columns: int) -> np.ndarray:
    """Return how much of each point of a strake is lettering, 0 to 1."""
    mask = np.zeros((rows, columns), np.uint8)
    high = 0.50 * rows
    # A strake is as much longer than high as the boat is to a plank; letters keep their shape on it.
    wide = high * columns / rows * (_HIGH / _STRAKES + _LAP) / _LONG
    left = 0.20 * columns
    for letter in "TEAL":
        boxes, slants = _LETTERS[letter]
        place = lambda x, y: (round(left + wide * x / 100), round(0.27 * rows + high * y / 100))  # noqa: E731
        for x0, y0, x1, y1 in boxes:
            cv2.rectangle(mask, place(x0, y0), place(x1, y1), 255, -1)
        for (x0, y0), (x1, y1) in slants:
            foot, half = np.array([place(x0, y0), place(x1, y1)]), wide * 0.075
            slant = np.array([foot[0] - [half, 0], foot[0] + [half, 0], foot[1] + [half, 0], foot[1] - [half, 0]])
            cv2.fillPoly(mask, [np.rint(slant).astype(np.int32)], 255)
        left += wide * 1.12
    soft = cv2.GaussianBlur(mask, (5, 5), 1.2).astype(np.float64) / 255
    return soft


def _ring_and_line(made: World, rng: np.random.Generator) -> None:
    iron = surface((0.10, 0.075, 0.06), roughness=0.55, metallic=0.6)
    middle = _STEM + np.array([-0.055, -0.045, 0.64])
    angle = np.linspace(0, 2 * np.pi * 1.02, 90)[:, None]
    made.add(curves([np.column_stack((middle + 0.05 * (np.cos(angle) * [0.6, -0.8, 0] + np.sin(angle) * [0, 0, 1]),
                                      np.full(90, 0.008)))], iron))  # fmt: skip
    bolt = np.linspace(0, 1, 12)[:, None]
    made.add(curves([np.column_stack((middle + [0, 0, 0.05] + bolt * 0.09 * _AFT, np.full(12, 0.012)))], iron))
    along = np.linspace(0, 1, 140)[:, None]
    path = middle + [0, 0, -0.05] + along * [-0.9, -0.55, -0.22] + np.sin(np.pi * along) * [0, 0, -0.12]
    made.add(curves(rope(rng, path, 0.017), HEMP))
    hang = middle + [0.0, 0.0, -0.05] + along * [0.10, 0.06, -0.62] + np.sin(3 * along) * [0.015, 0, 0]
    made.add(curves(rope(rng, hang, 0.015), HEMP))


def _shore(made: World, rng: np.random.Generator) -> None:
    water = noise(rng, 2048, 2048, along=0.7, across=1.6, steep=1.75) + 0.08 * noise(rng, 2048, 2048, steep=1.3)
    made.add({"type": "rectangle", "to_world": Transform().translate([0, 8, -0.26]).scale([16, 12, 1]),
              "bsdf": surface((0.020, 0.034, 0.036), roughness=0.08, specular=0.6, bump=water, bump_scale=0.09)})  # fmt: skip
    made.add({"type": "rectangle", "to_world": Transform().translate([0, 30, -0.27]).scale([60, 30, 1]),
              "bsdf": surface((0.05, 0.07, 0.075), roughness=0.3, specular=0.6)})  # fmt: skip
    for x, y, high in (
        (-1.5, 3.4, 1.0),
        (-0.7, 4.6, 1.2),
        (0.7, 6.2, 1.1),
        (2.0, 5.0, 1.5),
        (-2.6, 6.6, 1.3),
        (3.4, 7.8, 1.4),
    ):
        colour, _ = wood(rng, rows=128, columns=256, tone=0.45)
        made.add(
            turned(
                np.array([[0.11, 0.0], [0.10, high + 0.55], [0.0, high + 0.6]]),
                (x, y, -0.5),
                bsdf=surface(colour, roughness=0.8),
            )
        )
    for k, (x, y, wide, high) in enumerate(((-6.0, 24.0, 3.5, 2.6), (1.5, 27.0, 4.5, 3.4), (9.0, 25.0, 3.0, 2.2))):
        made.add({"type": "cube", "bsdf": surface(((0.20, 0.05, 0.035), (0.30, 0.26, 0.20), (0.12, 0.13, 0.12))[k], roughness=0.8),
                  "to_world": Transform().translate([x, y, high / 2 - 0.4]).scale([wide, 1.0, high / 2])})  # fmt: skip
    made.add({"type": "cube", "bsdf": surface((0.085, 0.10, 0.055), roughness=1.0),
              "to_world": Transform().translate([0, 31, 0.2]).scale([40, 1, 1.6])})  # fmt: skip
