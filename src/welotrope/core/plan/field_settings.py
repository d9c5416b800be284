"""The settings one goes through in the field: those kept by name, and two zones that cover the street."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from welotrope.core.kit.setup import Setup
from welotrope.core.plan.preset import Preset
from welotrope.core.plan.setting import RingSetting, ring_setting
from welotrope.core.plan.zone_set import remembered_zones
from welotrope.core.units.stops import snap_stop

USUAL_ZONE_STOP = 8.0
ZONE_NAMES = ("far zone", "near zone")
_REACHED = 1 - 1e-6


@dataclass(frozen=True, kw_only=True)
class FieldSetting:
    """A setting by name; ``preset`` tells one that was kept from a zone."""

    name: str
    preset: bool
    setting: RingSetting


def two_zones(setup: Setup, stop: float) -> tuple[FieldSetting, ...]:
    """Return the far and the near zone at a marked stop: together from the horizon inwards, without a gap."""
    zones = remembered_zones(setup, stop, len(ZONE_NAMES), far_mm=math.inf)
    return tuple(
        FieldSetting(name=name, preset=False, setting=zone.setting)
        for name, zone in zip(ZONE_NAMES, zones, strict=False)
    )


def field_settings(setup: Setup, presets: Sequence[Preset]) -> tuple[FieldSetting, ...]:
    """Return the settings of a set-up: the two zones at f/8 or the stop nearest to it, then what was kept.

    A preset nearer than the ring reaches is left out.
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
