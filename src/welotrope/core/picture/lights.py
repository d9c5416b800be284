"""Points of light in a picture: small, round, alone. How blurred they are their size tells, and their rim does not.

A point out of focus becomes a disc as wide as the blur, whose rim is as sharp as any edge; a star in focus has no edge
to measure. Both are found as what stands above all of a ring round it, at each size from the smallest on.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray

from welotrope.core.picture.blocks import BLOCK, BoolGrid

LEAST_ABOVE, SURE_ABOVE = 5.0, 9.0  # times the scatter of what is round it that a light must stand above it
_ALONE = 0.45  # of its height that nothing on the ring rises to
_FLOOR = 0.5 / 255  # of white, what eight bits and compression leave of scatter
_RING = [(y, x) for y in range(-3, 4) for x in range(-3, 4) if max(abs(y), abs(x)) == 3]
_NEXT = [(y, x) for y in (-1, 0, 1) for x in (-1, 0, 1) if (y, x) != (0, 0)]
_DISC = [(y, x) for y in range(-4, 6) for x in range(-4, 6) if (y - 0.5) ** 2 + (x - 0.5) ** 2 <= 25]
_EDGE = 5  # pixels of the level from the border within which none is looked for
_RIM_PX = 8.0
_MOST, _MOST_UNSURE = 1000, 3  # at a level, and in all; those that stand out most

Ints = NDArray[np.intp]
Floats = NDArray[np.float64]


@dataclass(frozen=True, kw_only=True)
class Light:
    """A point of light: where and how wide it is, pixels, and how many times the scatter round it it stands out."""

    x: float
    y: float
    diameter_px: float
    above: float

    @property
    def blur_px(self) -> float:
        """The standard deviation of a disc as wide, pixels."""
        return self.diameter_px / 4

    @property
    def is_sure(self) -> bool:
        """Whether it is surely one, and no chance of the noise."""
        return self.above > SURE_ABOVE


def lights_of(levels: list[NDArray[Any]], white: float) -> list[Light]:
    """Return the lights of a picture with its halvings, and the few next best, in pixels.

    ``white`` is its largest grey value.
    """
    sure: list[Light] = []
    unsure: list[Light] = []
    for halvings, (finer, level) in enumerate(pairwise(levels), start=1):
        lights = _at_level(level, finer, halvings, _FLOOR * white / 2**halvings)
        sure += _outside([light for light in lights if light.is_sure], sure)
        unsure += [light for light in lights if not light.is_sure]
    return sure + sorted(_outside(unsure, sure), key=lambda one: -one.above)[:_MOST_UNSURE]


def blocks_lit(lights: list[Light], shape: tuple[int, ...]) -> BoolGrid:
    """Return the blocks of 8 pixels that lights lie in, with their rims."""
    found = np.zeros(shape, dtype=bool)
    for one in lights:
        reach = one.diameter_px / 2 + _RIM_PX
        top, left = (max(int((at - reach) // BLOCK), 0) for at in (one.y, one.x))
        bottom, right = (int((at + reach) // BLOCK) + 1 for at in (one.y, one.x))
        found[top:bottom, left:right] = True
    return found


def _outside(lights: list[Light], smaller: list[Light]) -> list[Light]:
    """Return the lights that do not lie within a smaller one, found before."""
    if not smaller:
        return lights
    at = np.array([(one.x, one.y, max(one.diameter_px, 4.0)) for one in smaller])
    return [one for one in lights if np.all(np.hypot(at[:, 0] - one.x, at[:, 1] - one.y) >= at[:, 2])]


def _at_level(level: NDArray[Any], finer: NDArray[Any], halvings: int, floor: float) -> list[Light]:
    """Return the lights that are one or a few pixels wide at a level, measured at the finer one."""
    rows, cols = _peaks(level, floor)
    ring = np.stack([level[rows + y, cols + x] for y, x in _RING]).astype(np.float64)
    mean, scatter = ring.mean(axis=0), ring.std(axis=0) + floor
    height = level[rows, cols] - mean
    alone = (height > LEAST_ABOVE * scatter) & (ring.max(axis=0) - mean < _ALONE * height)
    best = np.flatnonzero(alone)[np.argsort(-(height / scatter)[alone], kind="stable")][:_MOST]
    rows, cols, mean, scatter, height = (one[best] for one in (rows, cols, mean, scatter, height))
    # As much light as there is, spread as high as the middle is.
    light: Floats = np.zeros(len(rows))
    for y, x in _DISC:
        light += finer[2 * rows + y, 2 * cols + x] - mean
    wide = np.maximum(2 * np.sqrt(np.maximum(light, 0.0) / height / math.pi), 1.0) * 2 ** (halvings - 1)
    side = 2**halvings
    return [
        Light(x=(col + 0.5) * side, y=(row + 0.5) * side, diameter_px=diameter, above=above)
        for row, col, diameter, above in zip(
            rows.tolist(), cols.tolist(), wide.tolist(), (height / scatter).tolist(), strict=True
        )
    ]


def _peaks(level: NDArray[Any], floor: float) -> tuple[Ints, Ints]:
    """Return where a level is as bright as nothing next to it, and stands above what is round it."""
    import cv2

    up = cv2.blur(level, (7, 7))
    cv2.subtract(level, up, dst=up)
    usual = 1.4826 * float(np.median(np.abs(up[::4, ::4]))) + floor
    inner = up[_EDGE:-_EDGE, _EDGE:-_EDGE]
    if inner.size == 0:
        return np.zeros(0, np.intp), np.zeros(0, np.intp)
    high = cv2.findNonZero(cv2.inRange(inner, 0.7 * LEAST_ABOVE * usual, math.inf))
    places = np.zeros((0, 2), np.intp) if high is None else high.reshape(-1, 2).astype(np.intp) + _EDGE
    cols, rows = places[:, 0], places[:, 1]
    for y, x in _NEXT:
        peak = level[rows, cols] >= level[rows + y, cols + x]
        rows, cols = rows[peak], cols[peak]
    return rows, cols
