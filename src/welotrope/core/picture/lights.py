"""Points of light in a picture: small, round, alone. How blurred they are their size tells, and their rim does not.

A point out of focus becomes a disc as wide as the blur, whose rim is as sharp as any edge; a star in focus has no edge
to measure. Both are found as what stands above all of a ring round it, at each size from the smallest on.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from welotrope.core.optics.elementwise import AnyArray
from welotrope.core.picture.blocks import BLOCK, STRIP, BoolGrid

LEAST_ABOVE, SURE_ABOVE = 5.0, 9.0  # times the scatter of what is round it that a light must stand above it
_ALONE = 0.45  # of its height that nothing on the ring rises to
_FLOOR = 0.5 / 255  # of white, what eight bits and compression leave of scatter
_RING = [(y, x) for y in range(-3, 4) for x in range(-3, 4) if max(abs(y), abs(x)) == 3]
_NEXT = sorted(((y, x) for y in (-1, 0, 1) for x in (-1, 0, 1) if (y, x) != (0, 0)), key=lambda at: abs(at[0] * at[1]))
_SOME = [(y, x) for y, x in _RING if y % 3 == x % 3 == 0]  # of the ring
# If the mean of all the ring is to be so near its highest, that of some of it bounds their highest so.
_OF_SOME = (1 - _ALONE) / (len(_RING) / len(_SOME) - (len(_RING) / len(_SOME) - 1) * (1 - _ALONE))
_DISC = np.array([(y, x) for y in range(-4, 6) for x in range(-4, 6) if (y - 0.5) ** 2 + (x - 0.5) ** 2 <= 25])
_EDGE = 5  # pixels of the level from the border within which none is looked for
_RIM_PX = 8.0
_MOST_HALVINGS, _LEAST_SIDE, _ROUND_FROM = 6, 24, 3  # to a disc of 300 pixels; the shape of smaller ones is not told
_WITHIN, _WITHOUT = 0.85, 1.17  # of its radius: a square of that area reaches from 0.89 to 1.25
_TURNS = np.arange(16) * np.pi / 8
_COS, _SIN = np.cos(_TURNS), np.sin(_TURNS)
_MOST, _MOST_UNSURE = 1000, 3  # at a level, and in all; those that stand out most

Ints = NDArray[np.intp]


@dataclass(frozen=True, kw_only=True)
class LightSpot:
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


def lights_of(levels: list[AnyArray], white: float) -> list[LightSpot]:
    """Return the lights of a picture with its halvings, and the few next best, in pixels.

    ``white`` is its largest grey value.

    Parameters
    ----------
    levels
        The picture and its halvings.
    white
        Largest grey value.
    """
    sure: list[LightSpot] = []
    unsure: list[LightSpot] = []
    sizes = _halved_on(levels)
    for halvings in range(1, len(sizes) - 2):
        lights = _at_level(sizes, halvings, white)
        if halvings >= _ROUND_FROM:
            lights = _round_ones(lights, sizes[halvings - _ROUND_FROM], 2 ** (halvings - _ROUND_FROM))
        sure += _outside([light for light in lights if light.is_sure], sure)
        unsure += [light for light in lights if not light.is_sure]
    return sure + sorted(_outside(unsure, sure), key=lambda one: -one.above)[:_MOST_UNSURE]


def _halved_on(levels: list[AnyArray]) -> list[AnyArray]:
    """Return the levels with smaller ones behind them, the last two of which only show what is round a light."""
    import cv2

    found = list(levels)
    while len(found) <= _MOST_HALVINGS + 2 and 4 * min(found[-1].shape) >= _LEAST_SIDE:
        found.append(cv2.resize(found[-1], None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA))
    return found


def _round_ones(lights: list[LightSpot], picture: AnyArray, side: int) -> list[LightSpot]:
    """Return the lights that are as bright all round within their width, and dark all round without.

    ``picture`` is halved so that ``side`` pixels are one.
    """
    at = np.array([(light.x, light.y, light.diameter_px / 2) for light in lights]).reshape(-1, 3) / side
    height, width = picture.shape

    def ring(share: float) -> NDArray[np.float64]:
        cols, rows = (
            np.rint(at[:, [axis]] - 0.5 + share * at[:, [2]] * turn).astype(int)
            for axis, turn in enumerate((_COS, _SIN))
        )
        return np.asarray(picture[np.clip(rows, 0, height - 1), np.clip(cols, 0, width - 1)], dtype=np.float64)

    within, without = ring(_WITHIN), ring(_WITHOUT)
    middle = (np.median(within, axis=1) + np.median(without, axis=1)) / 2
    is_round = (within.min(axis=1) > middle) & (middle > without.max(axis=1))
    return [light for light, one in zip(lights, is_round, strict=True) if one]


def blocks_lit(lights: list[LightSpot], shape: tuple[int, ...]) -> BoolGrid:
    """Return the blocks of 8 pixels that lights lie in, with their rims.

    Parameters
    ----------
    lights
        Points of light, in pixels.
    shape
        Rows and columns, in blocks.
    """
    found = np.zeros(shape, dtype=bool)
    for one in lights:
        reach = one.diameter_px / 2 + _RIM_PX
        top, left = (max(int((at - reach) // BLOCK), 0) for at in (one.y, one.x))
        bottom, right = (int((at + reach) // BLOCK) + 1 for at in (one.y, one.x))
        found[top:bottom, left:right] = True
    return found


def _outside(lights: list[LightSpot], smaller: list[LightSpot]) -> list[LightSpot]:
    """Return the lights that do not lie within a smaller one, found before."""
    if not smaller:
        return lights
    at = np.array([(one.x, one.y, max(one.diameter_px, 4.0)) for one in smaller])
    return [one for one in lights if np.all(np.hypot(at[:, 0] - one.x, at[:, 1] - one.y) >= at[:, 2])]


def _at_level(sizes: list[AnyArray], halvings: int, white: float) -> list[LightSpot]:
    """Return the lights that are one or a few pixels wide at a level, measured at the finer one."""
    finer, level, _, ground = sizes[halvings - 1 : halvings + 3]
    floor = _FLOOR * white / 2**halvings
    rows, cols = _peaks(level, ground, floor)
    ring = np.stack([level[rows + y, cols + x] for y, x in _RING]).astype(np.float64)
    mean, scatter = ring.mean(axis=0), ring.std(axis=0) + floor
    height = level[rows, cols] - mean
    alone = (height > LEAST_ABOVE * scatter) & (ring.max(axis=0) - mean < _ALONE * height)
    best = np.flatnonzero(alone)[np.argsort(-(height / scatter)[alone], kind="stable")][:_MOST]
    rows, cols, mean, scatter, height = (one[best] for one in (rows, cols, mean, scatter, height))
    # As much light as there is, spread as high as the middle is; its middle is that of what is surely its own.
    value = finer[2 * rows + _DISC[:, [0]], 2 * cols + _DISC[:, [1]]] - mean
    sure = np.where(value > height / 2, value, 0.0)
    light, own = value.sum(axis=0), sure.sum(axis=0)
    down, right = _DISC.T @ sure
    own = np.maximum(own, 1e-9)
    side = 2 ** (halvings - 1)  # of a pixel of the finer one
    wide = np.maximum(2 * np.sqrt(np.maximum(light, 0.0) / height / math.pi), 1.0) * side
    at_x, at_y = ((2 * at + off / own + 0.5) * side for at, off in ((cols, right), (rows, down)))
    each = zip(at_x.tolist(), at_y.tolist(), wide.tolist(), (height / scatter).tolist(), strict=True)
    return [LightSpot(x=x, y=y, diameter_px=diameter, above=above) for x, y, diameter, above in each]


def _peaks(level: AnyArray, small: AnyArray, floor: float) -> tuple[Ints, Ints]:
    """Return where a level is as bright as nothing next to it, and stands above what is round it.

    What is round it the level shows that is halved twice again: ``small``.
    """
    width, values = level.shape[1], level.ravel()
    at = _high(level, small, floor)
    for y, x in _NEXT:
        brighter = np.greater if (y, x) < (0, 0) else np.greater_equal  # of equals side by side the first
        at = at[brighter(values[at], values[at + y * width + x])]
    ring = np.stack([values[at + y * width + x] for y, x in _SOME])
    return np.divmod(at[ring.max(axis=0) < _OF_SOME * ring.mean(axis=0) + (1 - _OF_SOME) * values[at]], width)


def _high(level: AnyArray, small: AnyArray, floor: float) -> Ints:
    """Return which pixels of a level stand above what is round them, as if its rows were one; none near its border."""
    import cv2

    height, width = level.shape
    some = level[2::8, 2::8]
    off = some - small[::2, ::2][: some.shape[0], : some.shape[1]]
    usual = 1.4826 * float(np.median(np.abs(off))) + floor
    enough = small + 0.7 * LEAST_ABOVE * usual
    found = [np.zeros(0, np.intp)]
    for top in range(_EDGE, height - _EDGE, STRIP):
        rows = np.arange(top, min(top + STRIP, height - _EDGE))
        bound = cv2.resize(enough[rows * len(small) // height], (width, len(rows)), interpolation=cv2.INTER_LINEAR)
        high = level[rows[0] : rows[-1] + 1] > bound
        high[:, :_EDGE] = high[:, -_EDGE:] = False
        found.append(top * width + np.flatnonzero(high))
    return np.concatenate(found)
