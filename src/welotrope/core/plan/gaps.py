"""Zones that a photographer keeps by heart, tested for what falls between them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True, kw_only=True)
class KeptZone:
    """A kept setting: its name, its stop, and its sharp range, mm from the film plane."""

    name: str
    stop: float
    near_mm: float
    far_mm: float


@dataclass(frozen=True, kw_only=True)
class Between:
    """A kept zone, and the gap, mm, that opens between it and all that lies farther; None without one."""

    zone: KeptZone
    gap_from_mm: float | None = None
    gap_to_mm: float | None = None


def with_gaps(zones: Sequence[KeptZone]) -> tuple[Between, ...]:
    """Return kept zones from the farthest inwards, each with the gap that opens before it.

    Examples
    --------
    >>> far = KeptZone(name="far", stop=8, near_mm=1800, far_mm=9000)
    >>> near = KeptZone(name="near", stop=8, near_mm=900, far_mm=1500)
    >>> [(one.zone.name, one.gap_from_mm, one.gap_to_mm) for one in with_gaps([near, far])]
    [('far', None, None), ('near', 1500, 1800)]
    """
    found: list[Between] = []
    reached: float | None = None
    for zone in sorted(zones, key=lambda one: (-one.far_mm, -one.near_mm)):
        opens = reached is not None and zone.far_mm < reached
        found.append(
            Between(zone=zone, gap_from_mm=zone.far_mm if opens else None, gap_to_mm=reached if opens else None)
        )
        reached = zone.near_mm if reached is None else min(reached, zone.near_mm)
    return tuple(found)
