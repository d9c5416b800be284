"""Frames as evidence: where focus fell at which stop, distance and aid, summed up by setting."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from welotrope.core.hand.attempt import Side
from welotrope.core.optics.elementwise import FloatArray

_DISTANCE_STEP = 0.08  # of the logarithm of distance within which settings count as one


@dataclass(frozen=True, kw_only=True)
class Shot:
    """A frame of which it is known where focus fell.

    Parameters
    ----------
    aid
        Key of the aid it was focused with.
    stop, object_mm
        f-number, and the subject's distance from the principal plane, mm; infinite for the stars.
    half_mm, defocus_mm
        Half the sharp window there and what the aid shows, mm of extension.
    error_mm
        How far off the plane fell, mm of extension, positive behind; None when only the side is known.
    side
        Which side it fell on.
    """

    aid: str
    stop: float
    object_mm: float
    half_mm: float
    defocus_mm: float
    error_mm: float | None = None
    side: Side = Side.HIT


@dataclass(frozen=True, kw_only=True)
class Settings:
    """Shots with one lens summed up by setting: arrays of one length, lengths in mm.

    ``focal_mm`` and ``widest`` are those of the lens, mm and f-number.
    ``front``, ``hit`` and ``behind`` count shots of which only the side is known; ``exact`` those that were measured,
    with sum and sum of squares of their errors.
    """

    focal_mm: float
    widest: float
    aids: tuple[str, ...]
    stops: FloatArray
    objects: FloatArray
    halves: FloatArray
    defocus: FloatArray
    front: FloatArray
    hit: FloatArray
    behind: FloatArray
    exact: FloatArray
    errors: FloatArray
    squares: FloatArray

    @property
    def shots(self) -> FloatArray:
        """Shots of each setting, each a pure number."""
        return self.front + self.hit + self.behind + self.exact


def settings_of(shots: Iterable[Shot], focal_mm: float, widest: float | None = None) -> Settings:
    """Sum up shots by aid, stop and distance; shots that differ in distance by less than 8 % count as one setting.

    Without its widest stop the lens is taken to be open in the widest of the shots.
    """
    groups: dict[tuple[str, float, float], list[Shot]] = {}
    for shot in shots:
        near = math.inf if math.isinf(shot.object_mm) else round(math.log(shot.object_mm) / _DISTANCE_STEP)
        groups.setdefault((shot.aid, shot.stop, near), []).append(shot)
    return _settings(list(groups.values()), focal_mm, widest)


def _settings(groups: Sequence[Sequence[Shot]], focal_mm: float, widest: float | None) -> Settings:
    def mean(field: str) -> FloatArray:
        return np.array([sum(getattr(shot, field) for shot in group) / len(group) for group in groups])

    def count(side: Side) -> FloatArray:
        return np.array([float(sum(shot.error_mm is None and shot.side is side for shot in group)) for group in groups])

    known = [[shot.error_mm for shot in group if shot.error_mm is not None] for group in groups]
    stops = mean("stop")
    open_stop = float(np.min(stops)) if len(stops) else 1.0
    return Settings(
        focal_mm=focal_mm, widest=open_stop if widest is None else min(widest, open_stop),
        aids=tuple(group[0].aid for group in groups), stops=stops, objects=mean("object_mm"),
        halves=mean("half_mm"), defocus=mean("defocus_mm"), front=count(Side.FRONT), hit=count(Side.HIT),
        behind=count(Side.BEHIND), exact=np.array([float(len(errors)) for errors in known]),
        errors=np.array([sum(errors) for errors in known], dtype=float),
        squares=np.array([sum(error**2 for error in errors) for errors in known], dtype=float),
    )  # fmt: skip
