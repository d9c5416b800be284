"""Settings of a lens that are kept by name."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.plan.subjects import Subject


@dataclass(frozen=True, kw_only=True)
class Preset:
    """A named setting: film-plane distance in mm (may be infinite), stop, and the subjects planned for."""

    id: int
    lens_id: int
    name: str
    distance_mm: float
    stop: float
    subjects: tuple[Subject, ...]
