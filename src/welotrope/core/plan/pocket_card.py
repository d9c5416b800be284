"""The figures of a pocket card: what is sharp at a few distances and stops, and the photographer's own settings."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from welotrope.core.kit.setup import Setup
from welotrope.core.plan.setting import RingSetting, hyperfocal_angle, ring_setting
from welotrope.core.units.distance import Unit

MAX_STOPS, MAX_DISTANCES = 5, 6
_NICE = {
    Unit.METRIC: (0.5, 0.7, 1, 1.5, 2, 3, 5, 10, 20),
    Unit.FEET: (1.5, 2, 3, 4, 5, 7, 10, 15, 30, 60),
}


@dataclass(frozen=True)
class CardRow:
    """A distance (mm from the film plane) and near and far limits in mm per stop of the card."""

    distance_mm: float
    limits: tuple[tuple[float, float], ...]


@dataclass(frozen=True)
class PocketCard:
    """The card: stops across, distances down, and for each stop the setting that holds infinity."""

    stops: tuple[float, ...]
    rows: tuple[CardRow, ...]
    hyperfocal: tuple[RingSetting, ...]


def pocket_card(
    setup: Setup, unit: Unit, *, stops: Sequence[float] = (), distances_mm: Sequence[float] = ()
) -> PocketCard:
    """Work out one side of a card; without stops or distances, an even choice of those the lens has, round in a unit.

    Raises
    ------
    WelotropeError
        When a distance is out of the ring's reach.
    """
    chosen = tuple(stops)[:MAX_STOPS] or evenly(setup.lens.stops, MAX_STOPS)
    ring = setup.ring()
    usual = tuple(v * unit.mm for v in _NICE[unit] if ring.closest_mm <= v * unit.mm <= ring.farthest_mm)
    distances = tuple(distances_mm)[:MAX_DISTANCES] or evenly(usual, MAX_DISTANCES)
    rows = [CardRow(mm, tuple(_limits(setup, mm, stop) for stop in chosen)) for mm in distances]
    far = tuple(ring_setting(setup, hyperfocal_angle(setup, stop), stop) for stop in chosen)
    return PocketCard(chosen, tuple(rows), far)


def _limits(setup: Setup, distance_mm: float, stop: float) -> tuple[float, float]:
    ring = setup.ring(stop)
    ring.check_reach(distance_mm, field="distance on the card")
    setting = ring_setting(setup, float(ring.angle_at_distance(distance_mm)), stop)
    return setting.near_mm, setting.far_mm


def evenly(values: Sequence[float], most: int) -> tuple[float, ...]:
    """Return at most ``most`` (a pure number) of the values, evenly spread, both ends kept."""
    if len(values) <= most:
        return tuple(values)
    return tuple(values[round(i * (len(values) - 1) / (most - 1))] for i in range(most))
