"""The shed before dawn: a mast with its lashings between posts, tools on the wall, and lamps along it."""

from __future__ import annotations

import numpy as np
from world import HEMP, Transform, World, boarding, curves, lamp, noise, rope, sheet, sky, surface, turned, wood

_MAST = np.array([0.16, 0.0])
_THICK = 0.105
_TINS = ((0.20, 0.05, 0.03), (0.30, 0.27, 0.20), (0.04, 0.10, 0.10), (0.22, 0.15, 0.05))


def world() -> World:
    """Return the scene."""
    rng = np.random.default_rng(33)
    made = World(
        name="shed", camera=(0.0, -2.35, 1.42), aim=(0.05, 0.0, 1.36), fov_deg=36,
        target=(float(_MAST[0]) - 0.01, -_THICK - 0.008, 1.40), focal_lengths=(32.0, 90.0), target_name="the lashing of the mast",
        brightness=0.3, exposure=1.9,
        spots={"the post in front": (-0.52, -0.66, 1.35), "the lamps": (0.9, 3.55, 1.9)},
    )  # fmt: skip
    made.add(sky((0.010, 0.014, 0.022), (0.016, 0.018, 0.022)))
    made.add(lamp((-2.9, -0.9, 1.9), (0, 0.4, 1.2), 0.55, (2.6, 3.6, 5.2)))  # the window, towards dawn
    made.add({"type": "sphere", "center": [1.55, -1.75, 2.15], "radius": 0.06,
              "emitter": {"type": "area", "radiance": {"type": "rgb", "value": [120, 76, 36]}}})  # fmt: skip
    made.add(*boarding(rng, away=3.8, tone=0.55, across=0.21, wide=3.6))
    made.add(_mast(rng))
    _lashings(made, rng)
    for x, y, half, tone in ((-0.58, -0.62, 0.075, 0.6), (0.92, 0.95, 0.085, 0.7), (-1.02, 1.75, 0.085, 0.6)):
        made.add(_post(rng, x, y, half, tone))
    made.add({"type": "cube", "bsdf": surface((0.10, 0.075, 0.05), roughness=0.8),
              "to_world": Transform().translate([0, 1.75, 2.35]).scale([4, 0.08, 0.09])})  # fmt: skip
    _wall(made, rng)
    return made


def _mast(rng: np.random.Generator) -> object:
    angle = np.linspace(0, 2 * np.pi, 160)
    rise = np.linspace(-0.2, 3.2, 120)[:, None]
    colour, relief = wood(rng, rows=1024, columns=4096, tone=0.85, light=(0.62, 0.42, 0.22), dark=(0.30, 0.18, 0.09))
    points = np.stack((_MAST[0] + _THICK * np.cos(angle) + 0 * rise, _MAST[1] + _THICK * np.sin(angle) + 0 * rise,
                       rise + 0 * angle), axis=-1)  # fmt: skip
    return sheet(np.swapaxes(points, 0, 1), bsdf=surface(colour, roughness=0.4, bump=relief, bump_scale=0.004,
                                                         clearcoat=0.6))  # fmt: skip


def _lashings(made: World, rng: np.random.Generator) -> None:
    lines = []
    for first, laps in ((1.335, 6), (0.86, 4), (1.86, 4)):
        for k in range(laps):
            turn = np.linspace(0, 2 * np.pi * 1.02, 260) + rng.uniform(0, 6)
            out = _THICK + 0.010
            lines += rope(rng, np.column_stack((_MAST[0] + out * np.cos(turn), _MAST[1] + out * np.sin(turn),
                                                first + 0.0225 * k + 0.002 * np.sin(turn * 2 + k))), 0.0115, fibres=70)  # fmt: skip
    share = np.linspace(0, 1, 120)[:, None]
    for side, reach in (
        (-1, 0.75),
        (1, 0.68),
    ):  # stays from the lashing down to the floor, and a halyard beside the mast
        lines += rope(
            rng, np.array([_MAST[0] + 0.10 * side, 0.03, 1.9]) + share * [reach * side, 0.35, -2.1], 0.012, fibres=50
        )
    lines += rope(rng, np.array([_MAST[0] + 0.05, -_THICK - 0.02, 3.2]) + share * [0.01, 0.0, -1.78], 0.009, fibres=60)
    tail = share * [-0.03, -0.012, -0.40] + np.sin(3 * share) * [0.012, 0, 0]
    lines += rope(rng, np.array([_MAST[0] - 0.035, -_THICK - 0.012, 1.345]) + tail, 0.0105, fibres=80)
    made.add(curves(lines, HEMP))
    for z in (1.10, 2.05):
        made.add(turned(np.array([[_THICK + 0.001, 0.0], [_THICK + 0.007, 0.004], [_THICK + 0.007, 0.036], [_THICK + 0.001, 0.040]]),
                        (float(_MAST[0]), float(_MAST[1]), z), bsdf=surface((0.12, 0.10, 0.085), roughness=0.45, metallic=0.7)))  # fmt: skip


def _post(rng: np.random.Generator, x: float, y: float, half: float, tone: float) -> object:
    turn = np.linspace(0, 2 * np.pi, 120)
    blunt = lambda v: np.sign(v) * np.abs(v) ** 0.28  # noqa: E731 - a square with rounded corners
    rise = np.linspace(-0.2, 3.2, 60)[:, None]
    rough = 0.004 * noise(rng, 60, 120, along=0.6, across=6, steep=1.0)
    points = np.stack(
        (x + (half + rough) * blunt(np.cos(turn)), y + (half + rough) * blunt(np.sin(turn)), rise + 0 * turn), axis=-1
    )
    colour, relief = wood(rng, rows=1024, columns=3072, tone=tone, cracks=2.0)
    return sheet(np.swapaxes(points, 0, 1), bsdf=surface(colour, roughness=0.8, bump=relief, bump_scale=0.03))


def _wall(made: World, rng: np.random.Generator) -> None:
    """Hang lamps, coils of rope, oars and a shelf with tins on the far wall."""
    for x, z in ((-1.55, 1.95), (-0.75, 2.0), (0.62, 1.93), (1.30, 2.02), (1.95, 1.9)):
        warm = np.array([1.0, rng.uniform(0.56, 0.72), rng.uniform(0.24, 0.40)]) * rng.uniform(22, 40)
        made.add({"type": "sphere", "center": [x, 3.55, z], "radius": 0.032,
                  "emitter": {"type": "area", "radiance": {"type": "rgb", "value": warm.tolist()}}})  # fmt: skip
        iron = surface((0.05, 0.05, 0.05), roughness=0.5, metallic=0.7)
        made.add(turned(np.array([[0.0, 0.11], [0.075, 0.055], [0.078, 0.05], [0.0, 0.10]]), (x, 3.55, z), bsdf=iron))
        made.add(
            {"type": "cylinder", "p0": [x, 3.55, z + 0.1], "p1": [x, 3.74, z + 0.16], "radius": 0.008, "bsdf": iron}
        )
    lines = []
    for x, z in ((-1.15, 1.35), (0.35, 1.42), (1.6, 1.3)):
        for _ in range(9):
            turn = np.linspace(0, 2 * np.pi * 1.02, 120) + rng.uniform(0, 6)
            wide = rng.uniform(0.11, 0.16)
            lines += rope(rng, np.column_stack((x + wide * np.cos(turn), np.full(120, 3.66 - rng.uniform(0, 0.05)),
                                                z + 1.5 * wide * np.sin(turn))), 0.012, fibres=20)  # fmt: skip
    made.add(curves(lines, HEMP))
    for x, lean in ((-0.35, 0.10), (-0.22, 0.12), (2.25, -0.1)):
        colour, _ = wood(rng, rows=64, columns=512, tone=0.9)
        made.add({"type": "cylinder", "p0": [x, 3.5, -0.2], "p1": [x + lean, 3.7, 2.3], "radius": 0.024,
                  "bsdf": surface(colour, roughness=0.5)})  # fmt: skip
    made.add({"type": "cube", "bsdf": surface((0.16, 0.11, 0.07), roughness=0.8),
              "to_world": Transform().translate([0.9, 3.6, 1.12]).scale([0.55, 0.13, 0.015])})  # fmt: skip
    for k in range(7):
        tin = rng.uniform(0.03, 0.055)
        made.add({"type": "cylinder", "p0": [0.45 + 0.15 * k, 3.58, 1.135], "p1": [0.45 + 0.15 * k, 3.58, 1.135 + rng.uniform(0.09, 0.2)],
                  "radius": tin, "bsdf": surface(_TINS[k % len(_TINS)], roughness=0.4)})  # fmt: skip
