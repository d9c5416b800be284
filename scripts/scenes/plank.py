"""The name board of the Teal on its trestles: carved and painted letters that run off at a slant, in a boat shed."""

from __future__ import annotations

from pathlib import Path

import cv2
import numpy as np
from PIL import Image, ImageDraw, ImageFont
from world import (  # fmt: skip
    HEMP,
    Transform,
    World,
    boarding,
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

_FONT = Path(__file__).parents[2] / "src/welotrope/web/static/fonts/barlow-condensed-600.woff2"
_LONG, _HIGH = 1.9, 0.24
_NEAR, _ALONG, _UP = np.array([-0.62, -0.42, 0.90]), np.array([0.80, 0.60, 0.0]), np.array([0.0, 0.10, 0.995])
_WORDS, _AIMED = "SKARNMERE", 4


def world() -> World:
    """Return the scene."""
    rng = np.random.default_rng(61)
    name, middles = _name(760, 6000)
    letter = tuple(_on_board(middles[_AIMED] / 6000, 0.50))
    made = World(
        name="plank", camera=(0.10, -1.75, 1.20), aim=(letter[0] + 0.02, letter[1], letter[2] + 0.015), fov_deg=33,
        target=letter, focal_lengths=(16.0, 32.0), target_name="the letter above the arrow", brightness=0.8,
        exposure=1.05,
        spots={"the first letter": tuple(_on_board(middles[0] / 6000, 0.50)),
               "the last letter": tuple(_on_board(middles[-1] / 6000, 0.50))},
    )  # fmt: skip
    made.add(
        sky((0.26, 0.30, 0.36), (0.50, 0.48, 0.44), clouds=0.6, seed=3),
        lamp((-2.2, -2.0, 2.3), (0.1, 0, 1.0), 0.5, (34, 30, 24)),
        lamp((2.6, 1.4, 2.6), (0.4, 0.5, 1.0), 0.3, (20, 20, 21)),
    )
    made.add(_board(rng, name, middles[_AIMED]))
    made.add(*boarding(rng, away=2.9, tone=0.42, across=0.19))
    _bench(made, rng)
    return made


def _on_board(along: float, up: float, out: float = 0.0) -> np.ndarray:
    """Return a point of the board's face: from its near end and its lower edge, 0 to 1, and how far out, metres."""
    return _NEAR + along * _LONG * _ALONG + up * _HIGH * _UP + out * np.cross(_ALONG, _UP)


def _name(rows: int, columns: int) -> tuple[np.ndarray, list[float]]:
    """Return how much of each point of the board is lettering, 0 to 1, row 0 on top, and each letter's middle."""
    # A letter keeps its shape on the board, whose points are finer one way than the other.
    stretch = columns / rows * _HIGH / _LONG
    high = int(rows * 0.56)
    font = ImageFont.truetype(str(_FONT), int(high / 0.70))
    sheet_of = Image.new("L", (int(columns / stretch), rows), 0)
    draw = ImageDraw.Draw(sheet_of)
    x, middles, gap = 0.055 * sheet_of.width, [], 0.18 * high
    for letter in _WORDS:
        left, top, right, bottom = font.getbbox(letter)
        draw.text((x - left, (rows - (bottom - top)) / 2 - top - 0.055 * rows), letter, fill=255, font=font)
        middles.append((x + (right - left) / 2) * stretch)
        x += right - left + gap
    return cv2.resize(np.asarray(sheet_of), (columns, rows), interpolation=cv2.INTER_AREA) / 255.0, middles


def _board(rng: np.random.Generator, name: np.ndarray, aimed: float) -> object:
    rows, columns = name.shape
    grain, relief = wood(rng, rows=rows, columns=columns, tone=0.85)
    worn = noise(rng, rows, columns, along=4.0, steep=1.05) + 0.5 * noise(rng, rows, columns, along=22, steep=0.75)
    blotch = noise(rng, rows, columns, steep=1.5)[..., None]
    colour = np.array((0.025, 0.115, 0.125)) * (1 + 0.10 * blotch + 0.05 * worn[..., None])
    edge = np.minimum(np.arange(rows), np.arange(rows)[::-1])
    border = ((edge > 34) & (edge < 50))[:, None, None]
    gold = np.array((0.64, 0.44, 0.14)) * (1 + 0.12 * blotch)
    arrow = np.zeros((rows, columns), np.uint8)
    stretch = columns / rows * _HIGH / _LONG
    tip = [(0, -158), (-46, -106), (-15, -106), (-15, -66), (15, -66), (15, -106), (46, -106)]
    place = np.array([[aimed + x * stretch, rows + y] for x, y in tip])
    cv2.fillPoly(arrow, [np.rint(place).astype(np.int32)], 255)
    arrow = cv2.GaussianBlur(arrow, (3, 3), 0.8)[..., None] / 255.0
    mask = np.maximum(name[..., None], border * (arrow < 0.01))
    colour = colour * (1 - mask) + gold * mask
    colour = colour * (1 - arrow) + np.array((0.62, 0.08, 0.03)) * arrow
    rim = np.clip(1 - edge / 22, 0, 1)[:, None]
    bare = np.clip((worn + 1.3 * rim - 2.1) * 5, 0, 1)[..., None]
    cracks = np.clip(noise(rng, rows, columns, along=60, steep=0.8) - 2.3, 0, 1)[..., None]
    colour = np.clip((colour * (1 - bare) + grain * bare) * (1 - 0.7 * cracks), 0.006, 1)
    deep = cv2.GaussianBlur(name, (0, 0), 5.0)
    bump = 0.22 * relief - 2.0 * deep + 0.3 * (1 - bare[..., 0]) - 0.8 * cracks[..., 0]
    across, down = np.linspace(0, 1, 600), np.linspace(1, 0, 80)
    face = np.stack([[_on_board(a, b) for a in across] for b in down])
    thick = np.cross(_ALONG, _UP) * -0.032
    top = np.stack([[_on_board(a, 1.0) + thick] for a in across]).transpose(1, 0, 2)
    foot = np.stack([[_on_board(a, 0.0) + thick] for a in across]).transpose(1, 0, 2)
    return sheet(np.concatenate((top, face, foot)),
                 bsdf=surface(colour, roughness=0.36, clearcoat=0.5, clearcoat_gloss=0.8, bump=bump, bump_scale=0.012))  # fmt: skip


def _bench(made: World, rng: np.random.Generator) -> None:
    """Put the bench under the board, with shavings, a rope, a brush in its pot and a mallet."""
    for k in range(9):
        colour, relief = wood(rng, rows=384, columns=3000, tone=0.8 + 0.2 * rng.random())
        made.add({"type": "cube", "bsdf": surface(colour, roughness=0.7, bump=relief, bump_scale=0.03),
                  "to_world": Transform().translate([0.2, -1.05 + 0.28 * k, 0.865]).scale([2.6, 0.1385, 0.03])})  # fmt: skip
    lines = []
    for _ in range(46):
        turn = np.linspace(0, rng.uniform(1.5, 4.5) * np.pi, 60)
        radius, flat = rng.uniform(0.012, 0.026), rng.uniform(0, 2 * np.pi)
        way, side = np.array([np.cos(flat), np.sin(flat), 0]), np.array([-np.sin(flat), np.cos(flat), 0])
        at = np.array([rng.uniform(-1.0, 1.2), rng.uniform(-0.95, -0.1), 0.897 + radius])
        lines.append(at + radius * (1 - 0.04 * turn[:, None]) * (np.cos(turn)[:, None] * way + np.sin(turn)[:, None] * [0, 0, 1])
                     + side * 0.010 * turn[:, None])  # fmt: skip
    for path in lines:
        across = np.gradient(path, axis=0)
        out = np.cross(across, [0.3, 0.5, 0.8])
        out = out / np.linalg.norm(out, axis=1, keepdims=True) * 0.011
        made.add(sheet(np.stack((path - out, path + out)), bsdf=surface((0.66, 0.50, 0.31), roughness=0.65)))
    loops = np.linspace(0, 2 * np.pi * 3.2, 600)
    coil = np.column_stack((0.62 + (0.10 + 0.004 * loops) * np.cos(loops), -0.55 + (0.10 + 0.004 * loops) * np.sin(loops),
                            0.912 + 0.0035 * loops))  # fmt: skip
    made.add(curves(rope(rng, coil, 0.013, fibres=70), HEMP))
    pot = np.array([[0.0, 0.0], [0.05, 0.0], [0.052, 0.10], [0.049, 0.10], [0.047, 0.01]])
    made.add(turned(pot, (0.98, 0.75, 0.895), bsdf=surface((0.35, 0.36, 0.36), roughness=0.35, metallic=0.8)))
    made.add({"type": "cylinder", "p0": [0.97, 0.76, 0.93], "p1": [1.05, 0.80, 1.16], "radius": 0.009,
              "bsdf": surface((0.55, 0.30, 0.12), roughness=0.35, clearcoat=0.7)})  # fmt: skip
