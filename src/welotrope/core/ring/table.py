"""The ring as a table a browser can look up: every value a drag or a key can show, computed here once."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from welotrope.core.ring.helicoid import Helicoid
from welotrope.core.ring.window import sharp_window

IntArray = NDArray[np.int64]
STEP_DEG = 0.25
ANGLE_UNIT_DEG = 1e-3
VERGENCE_UNIT = 1e-9  # 1/mm; 1e-9/mm tells 100 m from 100.01 m


@dataclass(frozen=True)
class RingTable:
    """Angles on a 0.25° grid with what each reads, as integers that compress well.

    Parameters
    ----------
    throw_deg
        End of travel, degrees; the last grid step of the ring is clipped to it.
    vergence
        Reciprocal film-plane distance in 1e-9/mm on the grid from 0° to beyond the nearest near limit.
        It is used in place of distance because it is nearly linear in angle and finite at infinity.
    near, far
        Per stop, the window's ends in 1/1000° on the grid from 0° to the first step at or past ``throw_deg``.
    """

    throw_deg: float
    vergence: IntArray
    near: dict[float, IntArray]
    far: dict[float, IntArray]


def ring_table(ring: Helicoid, stops: tuple[float, ...], c: float) -> RingTable:
    """Compute the lookup table of a ring for its marked stops and an acceptable blur ``c`` in mm."""
    steps = math.ceil(ring.throw_deg / STEP_DEG - 1e-9)
    angles = _grid(steps + 1)
    near: dict[float, IntArray] = {}
    far: dict[float, IntArray] = {}
    furthest = angles[-1]
    for stop in stops:
        window = sharp_window(ring, angles, stop, c)
        near[stop], far[stop] = _integers(window.near_deg), _integers(window.far_deg)
        furthest = max(furthest, float(window.near_deg[-1]))
    extended = _grid(math.ceil(furthest / STEP_DEG) + 2)
    vergence = np.rint(1 / ring.distance_at_angle(extended) / VERGENCE_UNIT).astype(np.int64)
    return RingTable(ring.throw_deg, vergence, near, far)


def _grid(count: int) -> NDArray[np.float64]:
    return np.arange(count, dtype=np.float64) * np.float64(STEP_DEG)


def _integers(angles_deg: NDArray[np.float64]) -> IntArray:
    return np.rint(angles_deg / ANGLE_UNIT_DEG).astype(np.int64)
