"""The ring as a table a browser can look up: every value a drag or a key can show, computed here once."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from welotrope.core.ring.focus_ring import FocusRing
from welotrope.core.ring.window import sharp_window

IntArray = NDArray[np.int64]
STEP_DEG = 0.25
ANGLE_UNIT_DEG = 1e-3
VERGENCE_UNIT = 1e-9  # 1/mm; 1e-9/mm tells 100 m from 100.01 m


@dataclass(frozen=True, kw_only=True)
class RingTable:
    """Angles on a grid with what each reads, as integers that compress well.

    A place on the scale is a ring angle without focus shift; with the index at ``θ`` and the lens at a stop
    whose shift is ``s``, the plane of focus is at the place ``θ − s``.

    Parameters
    ----------
    step_deg
        Step of the grid, degrees.
    throw_deg
        End of travel, degrees; the last grid step of the ring is clipped to it.
    start_deg
        First place of the vergence grid, at or below 0: past infinity far limits still have a place.
    vergence
        Reciprocal film-plane distance in 1e-9/mm on the grid from ``start_deg`` to beyond the nearest near limit.
        It is used in place of distance because it is nearly linear in angle and finite at infinity;
        past infinity it is negative.
    near, far
        Per stop, the places of the depth marks in 1/1000° with the index on the grid from 0° to the first
        step at or past ``throw_deg``.
    width
        Per stop on the same grid, how far the ring may be turned while a subject that stays is sharp, in 1/1000°.
    near_vergence, far_vergence
        Per stop on the same grid, the reciprocal film-plane distances of the limits in 1e-9/mm; the film stays where
        the ring put it, so they differ from ``vergence`` at the places.
    shift
        Per stop, the focus shift in degrees.
    """

    step_deg: float
    throw_deg: float
    start_deg: float
    vergence: IntArray
    near: dict[float, IntArray]
    far: dict[float, IntArray]
    width: dict[float, IntArray]
    near_vergence: dict[float, IntArray]
    far_vergence: dict[float, IntArray]
    shift: dict[float, float]


def ring_table(
    ring: FocusRing, stops: tuple[float, ...], c: float, *, shifts: Mapping[float, float] | None = None,
    step_deg: float = STEP_DEG,
) -> RingTable:  # fmt: skip
    """Compute the lookup table of a ring for its marked stops and an acceptable blur ``c`` in mm.

    ``shifts`` are focus shifts in degrees per stop; stops left out have none. ``step_deg`` is the step of its grid.

    Parameters
    ----------
    ring
        The focus ring.
    stops
        Marked f-numbers.
    c
        Acceptable blur diameter in mm, 0.0001 to 2.
    shifts
        Focus shift in degrees, by f-number.
    step_deg
        Step of the table's grid in degrees.
    """
    steps = math.ceil(ring.throw_deg / step_deg - 1e-9)
    angles = _grid(0, steps + 1, step_deg)
    shift = {stop: (shifts or {}).get(stop, 0.0) for stop in stops}
    windows = {stop: sharp_window(ring, angles - shift[stop], stop, c) for stop in stops}
    nearest = max(float(angles[-1]), *(float(window.near_deg[-1]) for window in windows.values()))
    farthest = min(0.0, *(float(window.far_deg[0]) for window in windows.values()), *(-s for s in shift.values()))
    first = math.floor(farthest / step_deg - 1 / step_deg)  # room for a degree either side of what is read
    places = _grid(first, math.ceil(nearest / step_deg + 1 / step_deg) + 2, step_deg)
    return RingTable(
        step_deg=step_deg, throw_deg=ring.throw_deg, start_deg=first * step_deg,
        vergence=vergence_integers(ring.vergence_at_angle(places)),
        near={stop: _integers(window.near_deg) for stop, window in windows.items()},
        far={stop: _integers(window.far_deg) for stop, window in windows.items()},
        width={stop: _integers(window.width_deg) for stop, window in windows.items()},
        near_vergence={stop: vergence_integers(window.near_vergence) for stop, window in windows.items()},
        far_vergence={stop: vergence_integers(window.far_vergence) for stop, window in windows.items()}, shift=shift,
    )  # fmt: skip


def _grid(first: int, end: int, step_deg: float) -> NDArray[np.float64]:
    return np.arange(first, end, dtype=np.float64) * np.float64(step_deg)


def vergence_integers(vergence: NDArray[np.float64]) -> IntArray:
    """Return reciprocal distances in 1/mm as whole units of the table.

    Parameters
    ----------
    vergence
        Reciprocal distance from the film plane in 1/mm.
    """
    return np.rint(vergence / VERGENCE_UNIT).astype(np.int64)


def _integers(angles_deg: NDArray[np.float64]) -> IntArray:
    return np.rint(angles_deg / ANGLE_UNIT_DEG).astype(np.int64)
