"""Several zones side by side on the ground strip."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from welotrope.core.units.distance import Unit
from welotrope.web.components.ground.view import GroundAxis, Tick, axis_for, ticks_for


@dataclass(frozen=True, kw_only=True)
class GroundBand:
    """A zone in percent of the width, with its plane."""

    number: int
    near: float
    width: float
    plane: float


@dataclass(frozen=True, kw_only=True)
class GroundBands:
    """Zones on an axis, with its ticks in both units."""

    axis: GroundAxis
    rows: tuple[tuple[Unit, tuple[Tick, ...]], ...]
    bands: tuple[GroundBand, ...]


def ground_bands(closest_mm: float, zones_mm: Sequence[tuple[float, float, float]], unit: Unit) -> GroundBands:
    """Lay out zones, each as near limit, plane and far limit in mm."""
    axis = axis_for(closest_mm, [])
    bands = tuple(
        GroundBand(
            number=number, near=axis.percent(near), width=axis.percent(far) - axis.percent(near), plane=axis.percent(at)
        )
        for number, (near, at, far) in enumerate(zones_mm, 1)
    )
    return GroundBands(axis=axis, rows=tuple((one, ticks_for(axis, one)) for one in (unit, unit.other)), bands=bands)
