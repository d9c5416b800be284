"""The distances to show of a scale."""

from __future__ import annotations

import math

from welotrope.core.kit.setup import Setup
from welotrope.core.ring.engraving import engraved_marks
from welotrope.core.units.distance import Unit

_ROOM_DEG = 4.0


def scale_distances(setup: Setup, unit: Unit) -> list[float]:
    """Return the lens's own engraved distances, or a usual set, nearest first and infinity last."""
    scale = setup.known.scale
    listed = setup.lens.engraved_in(unit) or setup.lens.engraved_in(unit.other)
    own = [mm for mm in listed if mm >= scale.closest_mm * (1 - 1e-6)]
    if own:
        return sorted({*own, math.inf})
    found = engraved_marks(scale, unit, _ROOM_DEG, 0.0, engraved=(), tick_deg=_ROOM_DEG)
    return sorted(mark.distance_mm for mark in found if mark.numeral)
