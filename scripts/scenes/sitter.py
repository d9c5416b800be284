"""Ida by the lake, seen from behind as she looks out over the lake: a knitted hat with a badge, hair, scarf and coat."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from people import cloth, rod
from shores import lake
from world import (  # fmt: skip
    Transform,
    World,
    blended,
    carved,
    curves,
    ellipsoid,
    lamp,
    mesh,
    sheet,
    sky,
    solid_noise,
    surface,
    turned,
    wood,
)

_HEAD = np.array([0.0, 0.0, 1.215])
_CUFF_LOW, _CUFF_HIGH = 1.168, 1.228
_TOWARDS = np.array([-0.30, -1.0, 0.0]) / np.hypot(0.30, 1.0)  # from her head to where the badge sits
Fabric = Callable[[np.ndarray, np.ndarray], np.ndarray]  # points, shape (n, 3), from shares around and up


def world() -> World:
    """Return the scene."""
    rng = np.random.default_rng(29)
    badge = _cuff(np.array([_share_of(_TOWARDS)]), np.array([0.52]))[0] + 0.0065 * _TOWARDS
    made = World(
        name="sitter", camera=(-0.42, -1.52, 1.27), aim=(0.03, 0.0, 1.135), fov_deg=31, target=tuple(badge + 0.003 * _TOWARDS),
        focal_lengths=(20.0, 40.0), target_name="the badge on Ida’s hat", brightness=0.6, exposure=0.95,
        spots={"her shoulder": (-0.2, -0.1, 0.99), "the post in the water": (2.05, 3.2, 0.9)},
    )  # fmt: skip
    made.add(
        sky((0.30, 0.40, 0.56), (0.80, 0.72, 0.60), clouds=1.0, seed=21),
        lamp((-2.6, -1.6, 2.8), (0, 0, 1.1), 0.6, (44, 37, 27)),
    )
    _hat(made, rng)
    _badge(made, badge)
    _hair(made, rng)
    _scarf(made, rng)
    _coat(made, rng)
    lake(made, rng, level=-0.25, first=1.6, deep=90.0, ripples=0.16)
    for x, y, high in ((2.05, 3.2, 1.02), (2.95, 5.2, 0.95), (3.3, 5.8, 1.0), (0.45, 5.6, 0.95)):
        colour, relief = wood(rng, rows=256, columns=1024, tone=0.5)
        made.add(turned(np.array([[0.09, 0.0], [0.085, high + 0.55], [0.0, high + 0.6]]), (x, y, -0.6),
                        bsdf=surface(colour, roughness=0.8, bump=relief, bump_scale=0.02)))  # fmt: skip
    return made


def _share_of(way: np.ndarray) -> float:
    return float(np.arctan2(way[1], way[0]) / (2 * np.pi) % 1)


def _dome(around: np.ndarray, up: np.ndarray) -> np.ndarray:
    """Return points of the crown of the hat: ``around`` in turns, ``up`` from the cuff to the top, 0 to 1."""
    lift = up * 0.97 * np.pi / 2
    turn = 2 * np.pi * around
    slack = 1 + 0.02 * np.sin(3 * turn + 5 * up) * np.sin(np.pi * up)
    return _HEAD + np.column_stack((
        0.094 * slack * np.cos(lift) ** 0.8 * np.cos(turn), 0.105 * slack * np.cos(lift) ** 0.8 * np.sin(turn),
        0.008 + 0.112 * np.sin(lift),
    ))  # fmt: skip


def _cuff(around: np.ndarray, up: np.ndarray) -> np.ndarray:
    turn = 2 * np.pi * around
    fat = 0.008 * np.sin(np.pi * np.clip(up, 0, 1)) ** 0.6
    return np.column_stack((
        _HEAD[0] + (0.093 + fat) * np.cos(turn), _HEAD[1] + (0.104 + fat) * np.sin(turn),
        _CUFF_LOW + (_CUFF_HIGH - _CUFF_LOW) * up + 0.004 * np.sin(2 * turn + 1),
    ))  # fmt: skip


def _neck(around: np.ndarray, up: np.ndarray) -> np.ndarray:
    """Return points of the scarf: once round the neck, and round the roll that it makes."""
    turn, roll = 2 * np.pi * around, 2 * np.pi * up
    fold = 1 + 0.16 * np.sin(3 * turn + 0.7) * np.cos(2 * roll) + 0.10 * np.sin(5 * turn + 2 * roll)
    out = 0.098 + 0.043 * fold * np.cos(roll)
    return np.column_stack((
        _HEAD[0] + out * np.cos(turn), _HEAD[1] + 1.08 * out * np.sin(turn),
        1.088 + 0.038 * fold * np.sin(roll) + 0.012 * np.sin(turn - 0.6),
    ))  # fmt: skip


def _normals(fabric: Fabric, share: np.ndarray, up: np.ndarray) -> np.ndarray:
    """Return which way a fabric faces outwards at its points, as lengths of 1."""
    e = 1e-3
    out = np.cross(fabric(share + e, up) - fabric(share - e, up), fabric(share, up + e) - fabric(share, up - e))
    return out / np.maximum(np.linalg.norm(out, axis=1, keepdims=True), 1e-12)


def _knitted(
    rng: np.random.Generator, fabric: Fabric, around: int, rows: int, thick: float, *, rib: bool = False
) -> list[np.ndarray]:
    """Return the yarn of so many stitches around and rows of them, two plies of it, as thick as said in metres."""
    per, lines = 26, []
    angle = np.linspace(0, 2 * np.pi * around, per * around, endpoint=True)
    for row in range(rows):
        cell = angle / (2 * np.pi)
        purl = (np.floor(cell) % 4 >= 2) if rib else np.zeros(len(cell), bool)
        jitter = 0.05 * np.interp(cell, np.arange(around + 1), rng.normal(size=around + 1))
        share = (cell + 0.20 * np.sin(2 * angle) + jitter) / around
        up = (row + 0.5 + 0.98 * np.cos(angle) / 2 + 0.3 * jitter + 0.05 * rng.normal()) / rows
        middle = fabric(share, up)
        normal = _normals(fabric, share, up)
        lift = thick * np.cos(2 * angle) * np.where(purl, 0.7, -0.7) - np.where(purl, 1.3 * thick, 0.0)
        path = middle + normal * lift[:, None]
        ahead = np.gradient(path, axis=0)
        ahead /= np.maximum(np.linalg.norm(ahead, axis=1, keepdims=True), 1e-12)
        side = np.cross(ahead, normal)
        spin = 4.0 * angle + rng.uniform(0, 6)
        for ply in (0.0, np.pi):
            off = np.cos(spin + ply)[:, None] * side + np.sin(spin + ply)[:, None] * normal
            width = 0.62 * thick * (1 + 0.10 * np.sin(0.37 * angle + row))
            lines.append(np.column_stack((path + 0.46 * thick * off, np.broadcast_to(width, len(path)))))
    return lines


def _fuzz(rng: np.random.Generator, fabric: Fabric, count: int, long: float) -> list[np.ndarray]:
    """Return fine fibres that stand off a fabric."""
    share, up = rng.random(count), rng.uniform(0.02, 0.98, count)
    normal = _normals(fabric, share, up)
    lines, run = [], np.linspace(0, 1, 6)[:, None]
    for foot, out in zip(fabric(share, up), normal, strict=True):
        way, bend = out + 0.8 * rng.normal(size=3), rng.normal(size=3)
        path = foot + long * rng.uniform(0.4, 1.0) * (run * way / np.linalg.norm(way) + 0.4 * run**2 * bend)
        lines.append(np.column_stack((path, np.full(6, 0.00007))))
    return lines


def _lining(fabric: Fabric, bsdf: dict[str, object], shrunk: float) -> object:
    """Return the dark inside of a fabric, so that nothing shows between its stitches."""
    around, up = np.meshgrid(np.linspace(0, 1, 120), np.linspace(-0.02, 1.0, 60))
    points = fabric(around.ravel(), up.ravel())
    middle = np.array([*_HEAD[:2], 0]) + [0, 0, 1] * points[:, 2:] * [0, 0, 1]
    return sheet((middle + (points - middle) * shrunk).reshape(60, 120, 3), bsdf=bsdf)


def _hat(made: World, rng: np.random.Generator) -> None:
    wool = surface((0.30, 0.17, 0.035), roughness=0.9, sheen=0.8)
    yarn = _knitted(rng, _dome, 104, 40, 0.0017) + _knitted(rng, _cuff, 108, 15, 0.0019, rib=True)
    made.add(curves(yarn, wool))
    made.add(curves(_fuzz(rng, _dome, 5000, 0.007) + _fuzz(rng, _cuff, 3000, 0.008), wool))
    inside = surface((0.10, 0.055, 0.012), roughness=1.0)
    made.add(_lining(_dome, inside, 0.975), _lining(_cuff, inside, 0.955))


def _badge(made: World, at: np.ndarray) -> None:
    """Put a round badge on the cuff: blue enamel, a silver rim, a star of rays and a boss."""
    silver = {"type": "roughconductor", "material": "Al", "alpha": 0.18}
    enamel = surface((0.010, 0.030, 0.085), roughness=0.25, clearcoat=0.8)
    right = np.cross(_TOWARDS, [0, 0, 1.0])
    up = np.cross(right, _TOWARDS)
    frame = Transform().look_at(list(at), list(at + _TOWARDS), [0, 0, 1])
    made.add({"type": "disk", "to_world": frame @ Transform().scale(0.0118), "bsdf": enamel})
    turn = np.linspace(0, 2 * np.pi * 1.03, 120)[:, None]
    ring = lambda radius: at + radius * (np.cos(turn) * right + np.sin(turn) * up)  # noqa: E731
    thread = lambda path, radius: np.column_stack((path, np.full(len(path), radius)))  # noqa: E731
    lines = [thread(ring(0.0118), 0.0013), thread(ring(0.0092), 0.0004)]
    reach = np.linspace(0.0026, 0.0084, 8)[:, None]
    for k in range(8):
        way = np.cos(k * np.pi / 4 + 0.2) * right + np.sin(k * np.pi / 4 + 0.2) * up
        lines.append(thread(at + reach * way + 0.0004 * _TOWARDS, 0.0006))
    made.add(curves(lines, silver))
    made.add({"type": "sphere", "center": list(at + 0.0006 * _TOWARDS), "radius": 0.0026, "bsdf": silver})


def _hair(made: World, rng: np.random.Generator) -> None:
    lines, run = [], np.linspace(0, 1, 22)[:, None]
    for _ in range(340):  # locks, of hairs that lie together
        around, swirl, lift = rng.random(), rng.normal() * 0.7, rng.normal()
        for _ in range(14):
            turn = 2 * np.pi * (around + rng.normal() * 0.006)
            out = np.array([np.cos(turn), np.sin(turn), 0.0])
            foot = _HEAD + [0.086, 0.097, 0] * out + [0, 0, -0.035 + rng.normal() * 0.003]
            long = rng.uniform(0.075, 0.115)
            bulge = (0.018 + 0.006 * lift) * np.sin(np.pi * run * 0.9) + 0.004 * rng.normal() * run
            side = np.cross([0, 0, 1.0], out)
            path = (
                foot
                + out * bulge
                + side * (0.02 * swirl * run**2 + 0.0012 * rng.normal() * run)
                - np.array([0, 0, long]) * run
            )
            lines.append(np.column_stack((path, np.full(22, 0.00016))))
    for _ in range(70):  # stray ones
        turn = rng.uniform(0, 2 * np.pi)
        out = np.array([np.cos(turn), np.sin(turn), 0.0])
        foot = _HEAD + [0.090, 0.100, 0] * out + [0, 0, -0.035]
        way = 0.04 * rng.normal(size=3) + out * 0.05
        path = foot + way * run**1.5 - np.array([0, 0, rng.uniform(0.04, 0.09)]) * run
        lines.append(np.column_stack((path, np.full(22, 0.00011))))
    made.add(curves(lines, surface((0.20, 0.10, 0.04), roughness=0.35, specular=0.7)))
    around, up = np.meshgrid(np.linspace(0, 2 * np.pi, 90), np.linspace(0, 1, 30))
    under = np.stack((_HEAD[0] + (0.082 + 0.008 * np.sin(np.pi * up)) * np.cos(around), _HEAD[1] + (0.093 + 0.008 * np.sin(np.pi * up)) * np.sin(around),
                      1.20 - 0.13 * up), axis=-1)  # fmt: skip
    made.add(sheet(under, bsdf=surface((0.05, 0.025, 0.012), roughness=0.8)))


def _scarf(made: World, rng: np.random.Generator) -> None:
    wool = surface((0.42, 0.37, 0.27), roughness=0.9, sheen=0.8)
    made.add(curves(_knitted(rng, _neck, 120, 44, 0.0023), wool))
    made.add(curves(_fuzz(rng, _neck, 6000, 0.009), wool))
    around, up = np.meshgrid(np.linspace(0, 1, 160), np.linspace(0, 1, 60))
    points = _neck(around.ravel(), up.ravel())
    middle = _neck(around.ravel(), up.ravel() + 0.5)
    points = (0.95 * points + 0.05 * middle).reshape(60, 160, 3)
    made.add(sheet(points, bsdf=surface((0.15, 0.13, 0.09), roughness=1.0)))


def _body(p: np.ndarray) -> np.ndarray:
    """Return about how far points are from the coat."""
    rng = np.random.default_rng(8)
    body = ellipsoid(p, np.array([0.0, 0.015, 0.66]), np.array([0.205, 0.150, 0.40]))
    body = blended(body, rod(p, (0, 0.0, 1.00), (0, 0.0, 1.08), (0.088, 0.088)), 0.05)
    for side in (-1, 1):
        shoulder = rod(p, (0.03 * side, 0.0, 0.985), (0.178 * side, 0.005, 0.925), (0.070, 0.066))
        upper = rod(p, (0.185 * side, 0.005, 0.915), (0.252 * side, -0.015, 0.66), (0.068, 0.056))
        lower = rod(p, (0.252 * side, -0.015, 0.66), (0.20 * side, 0.20, 0.56), (0.056, 0.046))
        body = blended(blended(blended(body, shoulder, 0.07), upper, 0.045), lower, 0.03)
    broad = solid_noise(rng, p * [1, 1, 0.45], waves=50, low=3, high=12)
    pulled = np.sin(34 * p[:, 2] + 26 * np.abs(p[:, 0]) + 3 * broad) * np.exp(
        -(((np.abs(p[:, 0]) - 0.175) / 0.07) ** 2)
    )
    return body + 0.0055 * broad + 0.0035 * pulled


def _coat(made: World, rng: np.random.Generator) -> None:
    wool = cloth(rng, (0.040, 0.062, 0.088))
    points, faces = carved(_body, np.array([-0.36, -0.24, 0.50]), np.array([0.36, 0.30, 1.10]), 260)
    # Laid on from behind, as it is seen: a square of cloth is 0.45 m.
    made.add(
        mesh(points, faces, bsdf=wool, uv=np.column_stack((points[:, 0] + 0.35 * points[:, 1], points[:, 2])) / 0.45)
    )
    collar = np.linspace(0, 1, 60)[:, None]
    turn = np.linspace(0, 2 * np.pi, 220)
    lie = np.stack(((0.096 + 0.050 * collar) * np.cos(turn), (0.098 + 0.050 * collar) * np.sin(turn) + 0.0,
                    1.070 - 0.072 * collar**1.6 + 0.012 * np.sin(np.pi * collar) + 0.005 * np.sin(5 * turn)), axis=-1)  # fmt: skip
    made.add(sheet(lie.transpose(1, 0, 2), bsdf=wool))
