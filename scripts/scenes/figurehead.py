"""The figurehead of the Teal: a carved and painted bird with glass eyes, turned a little from the camera."""

from __future__ import annotations

import numpy as np
from world import (  # fmt: skip
    BY_POINT,
    HEMP,
    Transform,
    World,
    blended,
    carved,
    curves,
    ellipsoid,
    lamp,
    mesh,
    rope,
    sky,
    solid_noise,
    surface,
    wood,
)

_EYE, _EYE_RADIUS = np.array([0.10, -0.125, 0.06]), 0.037
_TURN = np.radians(38)


def world() -> World:
    """Return the scene."""
    rng = np.random.default_rng(21)
    eye = _in_world(_EYE * [1, 1, 1] + [0, -_EYE_RADIUS * 0.8, 0])
    made = World(
        name="figurehead", camera=(0.0, -1.75, 0.08), aim=(0.03, 0.0, -0.02),
        fov_deg=30, target=eye, focal_lengths=(20.0, 50.0), target_name="the nearer eye", exposure=0.95,
        spots={"the tip of the bill": _in_world(np.array([0.56, 0.0, -0.03])), "the rope behind": (0.45, 1.3, 0.04)},
    )  # fmt: skip
    made.add(
        sky((0.32, 0.40, 0.52), (0.72, 0.72, 0.70), clouds=0.9, seed=5),
        lamp((-2.4, -2.2, 2.2), (0, 0, 0), 0.55, (30, 26, 21)),
    )
    points, faces = carved(_shape, np.array([-0.5, -0.32, -0.75]), np.array([0.62, 0.32, 0.28]), 300)
    made.add(
        mesh(
            _moved(points),
            faces,
            colours=_paint(points),
            bsdf=surface(BY_POINT, roughness=0.42, clearcoat=0.5, clearcoat_gloss=0.85),
        )
    )
    for side in (1, -1):
        at = _in_world(_EYE * [1, side, 1])
        look = np.array([0.25, -side, 0.05]) / np.linalg.norm([0.25, -side, 0.05])
        made.add({"type": "sphere", "center": list(at), "radius": _EYE_RADIUS,
                  "bsdf": {"type": "plastic", "diffuse_reflectance": {"type": "rgb", "value": [0.012, 0.008, 0.006]}}})  # fmt: skip
        ring = _ring(_EYE * [1, side, 1], look, 0.0365)
        made.add(curves([np.column_stack((_moved(ring), np.full(len(ring), 0.006)))],
                        surface((0.55, 0.33, 0.06), roughness=0.3, clearcoat=0.6)))  # fmt: skip
    for k in range(-8, 9):  # the shed's wall, well behind
        colour, relief = wood(rng, tone=0.5 + 0.25 * rng.random())
        made.add({"type": "cube", "bsdf": surface(colour, roughness=0.7, bump=relief, bump_scale=0.03),
                  "to_world": Transform().translate([k * 0.36, 3.4, 0]).rotate([0, 1, 0], 90).scale([3, 0.05, 0.175])})  # fmt: skip
    dark = surface((0.012, 0.01, 0.008), roughness=1.0)
    made.add({"type": "cube", "bsdf": dark, "to_world": Transform().translate([0, 3.6, 0]).scale([6, 0.05, 4])})
    lines = []
    for k in range(5):
        turn = np.linspace(0, 2 * np.pi * 1.02, 240) + rng.uniform(0, 6)
        ring = np.column_stack(
            (-0.06 + 0.226 * np.cos(turn), 0.215 * np.sin(turn), -0.46 - 0.041 * k + 0.004 * np.sin(turn * 3 + k))
        )
        lines += rope(rng, _moved(ring), 0.02, fibres=50)
    made.add(curves(lines, HEMP))
    rail = np.linspace(0, 1, 80)[:, None]
    made.add(curves(rope(rng, np.array([-1.4, 1.1, -0.25]) + rail * [3.2, 0.4, 0.5], 0.022), HEMP))
    return made


def _ring(middle: np.ndarray, way: np.ndarray, radius: float) -> np.ndarray:
    across = np.cross(way, [0, 0, 1.0])
    across /= np.linalg.norm(across)
    up = np.cross(across, way)
    angle = np.linspace(0, 2 * np.pi * 1.02, 120)[:, None]
    return middle + 0.011 * way + radius * (np.cos(angle) * across + np.sin(angle) * up)


def _moved(points: np.ndarray) -> np.ndarray:
    c, s = np.cos(_TURN), np.sin(_TURN)
    return points @ np.array([[c, -s, 0], [s, c, 0], [0, 0, 1]]) + [-0.12, 0, 0.02]


def _in_world(point: np.ndarray) -> tuple[float, float, float]:
    x, y, z = _moved(np.asarray(point, float)[None])[0]
    return float(x), float(y), float(z)


def _shape(p: np.ndarray) -> np.ndarray:
    head = ellipsoid(p, np.array([0.02, 0, 0.03]), np.array([0.215, 0.16, 0.165]))
    crown = ellipsoid(p, np.array([-0.04, 0, 0.09]), np.array([0.15, 0.115, 0.125]))
    bend = p - np.column_stack(
        (
            0 * p[:, 0],
            0 * p[:, 0],
            -0.28 * np.clip(p[:, 0] - 0.18, 0, None) ** 2 + 0.06 * np.clip(p[:, 0] - 0.4, 0, None),
        )
    )
    bill = ellipsoid(bend, np.array([0.34, 0, -0.005]), np.array([0.24, 0.075, 0.042]))
    bill = np.maximum(bill, -(np.abs(bend[:, 2] + 0.012) - 0.0035 + 10 * np.clip(0.2 - p[:, 0], 0, None)))
    nostril = ellipsoid(p * [1, 1, 1], np.array([0.27, 0, 0.03]), np.array([0.022, 0.2, 0.008]))
    neck = ellipsoid(p, np.array([-0.09, 0, -0.34]), np.array([0.165, 0.15, 0.42]))
    base = ellipsoid(p, np.array([-0.06, 0, -0.72]), np.array([0.36, 0.27, 0.26]))
    cheek = ellipsoid(p * [1, 1, 1] * [1, 1, 1], np.array([0.05, 0, -0.03]), np.array([0.15, 0.158, 0.105]))
    body = blended(blended(head, crown, 0.05), cheek, 0.05)
    body = blended(blended(body, neck, 0.10), base, 0.10)
    body = blended(body, bill, 0.035)
    body = np.maximum(body, -nostril)
    for side in (1, -1):
        socket = np.linalg.norm(p - _EYE * [1, side, 1] - [0, -0.012 * side, 0], axis=1) - 0.043
        body = np.maximum(body, -socket)
    feathers = np.clip(-(p[:, 2] + 0.12) / 0.1, 0, 1) + 0.5 * np.clip(-(p[:, 0] + 0.02) / 0.1, 0, 1)
    around = np.arctan2(p[:, 1], p[:, 0] + 0.09)
    row = p[:, 2] * 16
    scale = np.abs(np.sin(7 * around + np.pi / 2 * np.floor(row))) ** 0.5 * (row - np.floor(row))
    chisel = 0.0022 * np.sin(40 * p[:, 0] + 9 * np.sin(30 * p[:, 2])) + 0.0015 * np.sin(70 * p[:, 2] + 60 * p[:, 1])
    return body - 0.011 * np.clip(feathers, 0, 1) * (scale - 0.5) + chisel


def _paint(p: np.ndarray) -> np.ndarray:
    """Return the colours of points of the figure: chestnut head, a green stripe behind the eye, a dark bill."""
    rng = np.random.default_rng(4)
    fine, broad = solid_noise(rng, p, waves=120, low=20, high=160), solid_noise(rng, p, waves=40, low=3, high=14)
    grain = np.sin(260 * (p[:, 0] + 0.04 * broad * 0.2) + 2 * broad)
    colour = np.tile(np.array([0.235, 0.075, 0.028]), (len(p), 1))
    stripe = np.exp(-(((p[:, 2] - 0.05 + 0.25 * (p[:, 0] - 0.08)) / 0.055) ** 4)) * (p[:, 0] < 0.17) * (p[:, 0] > -0.22)
    colour = _mixed(colour, (0.02, 0.14, 0.085), np.clip(stripe * 1.2, 0, 1))
    edge = (
        np.exp(-(((np.abs(p[:, 2] - 0.05 + 0.25 * (p[:, 0] - 0.08)) - 0.062) / 0.006) ** 2))
        * (p[:, 0] < 0.18)
        * (p[:, 0] > -0.22)
    )
    colour = _mixed(colour, (0.62, 0.50, 0.25), np.clip(edge, 0, 1))
    colour = _mixed(colour, (0.05, 0.055, 0.06), np.clip((p[:, 0] - 0.205) / 0.012, 0, 1))
    colour = _mixed(colour, (0.50, 0.43, 0.30), np.clip(-(p[:, 2] + 0.22 + 0.02 * broad) / 0.03, 0, 1))
    row = p[:, 2] * 16
    tip = np.clip(0.25 - (row - np.floor(row)), 0, 0.25) * 4 * (p[:, 2] < -0.22)
    colour = _mixed(colour, (0.16, 0.09, 0.05), np.clip(tip, 0, 0.8))
    bare = np.array([0.33, 0.24, 0.15]) * (1 + 0.16 * grain[:, None])
    worn = np.clip((broad + 0.45 * fine - 1.45) * 4, 0, 1)
    colour = colour * (1 + 0.07 * fine[:, None] + 0.05 * broad[:, None])
    return np.clip(colour * (1 - worn[:, None]) + bare * worn[:, None], 0.004, 1)


def _mixed(colour: np.ndarray, other: tuple[float, float, float], share: np.ndarray) -> np.ndarray:
    return colour * (1 - share[:, None]) + np.array(other) * share[:, None]
