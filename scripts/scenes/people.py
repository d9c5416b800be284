"""People as they stand or sit with their backs to the camera: coats, hats and hair; no faces."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from world import (  # fmt: skip
    BY_POINT,
    Colour,
    Grid,
    Random,
    World,
    blended,
    carved,
    curves,
    ellipsoid,
    mesh,
    noise,
    solid_noise,
    surface,
    turned,
)


def rod(p: Grid, first: Grid, last: Grid, thick: tuple[float, float]) -> Grid:
    """Return how far points are from a rod with round ends, of a radius at each end."""
    a, along = np.array(first), np.subtract(last, first)
    share = np.clip((p - a) @ along / (along @ along), 0, 1)
    return np.linalg.norm(p - a - share[:, None] * along, axis=1) - (thick[0] + share * (thick[1] - thick[0]))


def cloth(rng: Random, colour: Colour, *, fleck: float = 0.3, pixels: int = 3000) -> dict[str, object]:
    """Return woollen cloth: a twill of yarns, some lighter. A square of it is meant to be 0.45 m."""
    y, x = np.mgrid[0:pixels, 0:pixels].astype(np.float32)
    twill = np.sin(2 * np.pi * (x + y) * 333 / pixels) * (0.7 + 0.3 * np.sin(2 * np.pi * y * 666 / pixels))
    fine = noise(rng, pixels, pixels, steep=0.35)
    shade = np.array(colour) * (1 + 0.30 * twill[..., None] + 0.30 * fine[..., None])
    shade += fleck * np.clip(fine - 2.3, 0, 1)[..., None] * np.array((1.0, 0.87, 0.67))
    return surface(np.clip(shade, 0.004, 1), roughness=0.95, sheen=0.7, bump=twill + 0.8 * fine, bump_scale=0.004)


def _coat(p: Grid, rng: Random, skirt: float, arms: list[tuple[Grid, Grid, Grid]]) -> Grid:
    """Return about how far points are from a coat whose shoulders are 0.93 m above where it is sat on, or stands."""
    body = ellipsoid(p, np.array([0.0, 0.015, 0.64]), np.array([0.205, 0.150, 0.42]))
    if skirt:
        body = blended(body, rod(p, (0, 0.01, 0.62), (0, 0.0, 0.62 - skirt), (0.165, 0.235)), 0.06)
    body = blended(body, rod(p, (0, 0.0, 1.00), (0, 0.0, 1.06), (0.082, 0.078)), 0.05)
    for side, (shoulder, elbow, wrist) in zip((-1, 1), arms, strict=True):
        top = rod(p, (0.03 * side, 0.0, 0.985), shoulder, (0.070, 0.066))
        upper, lower = rod(p, shoulder, elbow, (0.066, 0.055)), rod(p, elbow, wrist, (0.055, 0.044))
        body = blended(blended(blended(body, top, 0.07), upper, 0.045), lower, 0.03)
    broad = solid_noise(rng, p * [1, 1, 0.35], waves=40, low=2.5, high=10)
    fine = solid_noise(rng, p * [1, 1, 0.8], waves=40, low=9, high=26)
    around = np.arctan2(p[:, 1], p[:, 0])
    hem = np.clip(0.66 - p[:, 2], 0, 0.6) * 0.028 * np.sin(7 * around + 1.5 * broad)
    seam = 0.005 * np.exp(-((p[:, 0] / 0.005) ** 2)) * (p[:, 1] < 0)
    return body + 0.010 * broad + 0.0022 * fine + hem + seam


def figure(made: World, rng: Random, at: tuple[float, float, float], *, coat: Colour, hat: str, hat_colour: Colour, hair: Colour,
           scale: float = 1.0, skirt: float = 0.55, turn_deg: float = 0.0, fine: int = 150,
           arms: list[tuple[Grid, Grid, Grid]] | None = None, lean_deg: float = 0.0) -> None:  # fmt: skip
    """Put someone with their back to the camera at a place; without a skirt to the coat they sit, and have no legs.

    Parameters
    ----------
    at
        0.93 m below the shoulders.
    hat
        ``"brim"``, ``"cap"`` or ``"knitted"``.
    scale
        Of a grown person.
    skirt
        How far the coat goes on below the hips, metres; 0 for a jacket.
    turn_deg, lean_deg
        To the right as seen, and towards the camera.
    arms
        Shoulder, elbow and wrist of the left and the right one as seen; hanging otherwise.
    """
    if arms is None:
        arms = [
            (np.array([0.185 * s, 0.005, 0.915]), np.array([0.245 * s, 0.0, 0.66]), np.array([0.215 * s, 0.10, 0.45]))
            for s in (-1, 1)
        ]
    reach = np.array([one for arm in arms for one in arm])
    low = np.minimum([-0.36, -0.30, 0.55 - skirt], reach.min(axis=0) - 0.1)
    high = np.maximum([0.36, 0.30, 1.10], reach.max(axis=0) + 0.1)
    points, faces = carved(lambda p: _coat(p, np.random.default_rng(7), skirt, arms), low, high, fine)
    c, s = np.cos(np.radians(turn_deg)), np.sin(np.radians(turn_deg))
    a, b = np.cos(np.radians(lean_deg)), np.sin(np.radians(lean_deg))
    lean = np.array([[1, 0, 0], [0, a, b], [0, -b, a]])  # the head comes towards the camera
    way = np.array([[c, s, 0], [-s, c, 0], [0, 0, 1]])

    def placed(p: Grid) -> Grid:
        return np.asarray(at) + scale * (p @ lean @ way)

    uv = np.column_stack((points[:, 0] + 0.35 * points[:, 1], points[:, 2])) / 0.45
    made.add(mesh(placed(points), faces, bsdf=cloth(rng, coat, fleck=0.12, pixels=1500), uv=uv))
    if skirt:
        _legs(made, placed)
    head = np.array([0.0, 0.0, 1.20])
    skull, sides = carved(lambda p: blended(ellipsoid(p, head, np.array([0.080, 0.100, 0.115])),
                                            rod(p, (0, 0.01, 1.0), (0, 0.01, 1.14), (0.058, 0.055)), 0.03),
                          np.array([-0.13, -0.13, 0.98]), np.array([0.13, 0.13, 1.34]), 60)  # fmt: skip
    skin = np.array((0.52, 0.33, 0.25))
    hairy = np.clip((skull[:, 2] - 1.135 - 0.5 * np.clip(skull[:, 1], -0.1, 0.1)) / 0.012, 0, 1)[:, None]
    made.add(mesh(placed(skull), sides, bsdf=surface(BY_POINT, roughness=0.6),
                  colours=np.clip(skin * (1 - hairy) + np.array(hair) * 0.5 * hairy, 0.005, 1)))  # fmt: skip
    lines, run = [], np.linspace(0, 1, 14)[:, None]
    for _ in range(900):
        around = rng.uniform(np.pi, 2 * np.pi) + rng.normal() * 0.2
        out = np.array([np.cos(around), np.sin(around), 0])
        foot = head + [0.080, 0.100, 0] * out + [0, 0, 0.035]
        path = (
            foot
            + 0.010 * out * np.sin(np.pi * run)
            - np.array([0, 0, rng.uniform(0.07, 0.115)]) * run
            - 0.03 * out * run**3
            + 0.006 * rng.normal(size=3) * run
        )
        lines.append(np.column_stack((placed(path), np.full(14, 0.0004 * scale))))
    made.add(curves(lines, surface(hair, roughness=0.4, specular=0.6)))
    top = placed(np.array([[0.0, 0.0, 1.225]]))[0]
    made.add(turned(_HATS[hat] * scale, tuple(top), bsdf=_felt(rng, hat_colour)))
    if hat == "brim":
        made.add(turned(np.array([[0.0985, 0.004], [0.103, 0.008], [0.101, 0.032], [0.097, 0.034]]) * scale, tuple(top),
                        bsdf=surface(tuple(0.25 * one for one in hat_colour), roughness=0.5)))  # fmt: skip


def _legs(made: World, placed: Callable[[Grid], Grid]) -> None:
    """Put trousers and boots under a coat, down to the ground 0.44 m below where its place is."""
    for side in (-1, 1):
        leg, faces = carved(lambda p, s=side: rod(p, np.array([0.085 * s, 0.01, 0.15]), np.array([0.09 * s, 0.02, -0.34]), (0.085, 0.070)),
                            np.array([-0.25, -0.15, -0.46]), np.array([0.25, 0.20, 0.28]), 60)  # fmt: skip
        made.add(mesh(placed(leg), faces, bsdf=surface((0.035, 0.035, 0.04), roughness=0.9)))
        boot, faces = carved(lambda p, s=side: blended(ellipsoid(p, np.array([0.09 * s, 0.06, -0.405]), np.array([0.048, 0.135, 0.040])),
                                                       rod(p, np.array([0.09 * s, 0.0, -0.38]), np.array([0.09 * s, 0.0, -0.30]), (0.05, 0.055)), 0.03),
                             np.array([-0.2, -0.15, -0.46]), np.array([0.2, 0.25, -0.2]), 60)  # fmt: skip
        made.add(mesh(placed(boot), faces, bsdf=surface((0.05, 0.03, 0.02), roughness=0.4)))


_HATS = {
    "brim": np.array([[0.165, 0.010], [0.166, 0.006], [0.155, -0.002], [0.120, -0.004], [0.098, 0.002], [0.096, 0.05], [0.088, 0.098],
                      [0.070, 0.112], [0.035, 0.106], [0.0, 0.104]]),
    "cap": np.array([[0.092, -0.012], [0.104, 0.010], [0.128, 0.042], [0.124, 0.062], [0.085, 0.085], [0.0, 0.094]]),
    "knitted": np.array([[0.096, -0.022], [0.103, -0.018], [0.103, 0.018], [0.097, 0.024], [0.094, 0.055], [0.074, 0.098], [0.04, 0.118],
                         [0.0, 0.124]]),
}  # fmt: skip


def _felt(rng: Random, colour: Colour) -> dict[str, object]:
    grain = noise(rng, 600, 900, steep=0.7)[..., None]
    shade = np.clip(np.array(colour) * (1 + 0.12 * grain), 0.004, 1)
    return surface(shade, roughness=0.9, sheen=0.6, bump=grain[..., 0], bump_scale=0.003)
