"""The settings one goes through in the field: those kept by name, two that cover the street, and their gaps."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from welotrope.core.kit.setup import Setup
from welotrope.core.plan.setting import RingSetting, Subject, ring_setting
from welotrope.core.plan.zone_set import remembered_zones
from welotrope.core.units.exposure import snap_stop

USUAL_ZONE_STOP = 8.0
ZONE_NAMES = ("far zone", "near zone")
_REACHED = 1 - 1e-6


@dataclass(frozen=True, kw_only=True)
class Preset:
    """A named setting: film-plane distance in mm (may be infinite), stop, and the subjects planned for."""

    id: int
    lens_id: int
    name: str
    distance_mm: float
    stop: float
    subjects: tuple[Subject, ...]


@dataclass(frozen=True, kw_only=True)
class FieldSetting:
    """A setting by name; ``preset`` tells one that was kept from a zone."""

    name: str
    preset: bool
    setting: RingSetting


def two_zones(setup: Setup, stop: float) -> tuple[FieldSetting, ...]:
    """Return the far and the near zone at a marked stop: together from the horizon inwards, without a gap.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    stop
        F-number, 0.5 to 128.
    """
    zones = remembered_zones(setup, stop, len(ZONE_NAMES), far_mm=math.inf)
    return tuple(
        FieldSetting(name=name, preset=False, setting=zone.setting)
        for name, zone in zip(ZONE_NAMES, zones, strict=False)
    )


def field_settings(setup: Setup, presets: Sequence[Preset]) -> tuple[FieldSetting, ...]:
    """Return the settings of a set-up: the two zones at f/8 or the stop nearest to it, then what was kept.

    A preset nearer than the ring reaches is left out.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    presets
        Settings that were kept by name.
    """
    kept = [
        FieldSetting(
            name=one.name, preset=True,
            setting=ring_setting(setup, setup.ring(one.stop).setting_for(one.distance_mm), one.stop),
        )
        for one in presets
        if one.distance_mm >= setup.ring(one.stop).closest_mm * _REACHED
    ]  # fmt: skip
    return (*two_zones(setup, snap_stop(USUAL_ZONE_STOP, setup.lens.stops)), *kept)


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

    Parameters
    ----------
    zones
        Zones that were kept.

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
