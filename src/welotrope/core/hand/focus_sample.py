"""Frames as evidence: where focus fell at which stop, distance and aid, summed up by setting."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from enum import StrEnum

import numpy as np

from welotrope.core.hand.skill_trial import MissSide
from welotrope.core.optics.elementwise import FloatArray


class ShownBy(StrEnum):
    """What shows where focus lies, by which an error of one part of the camera reaches it or not."""

    PICTURE = "the picture itself"
    PEAKS = "a mark on the picture itself"
    SCREEN = "a screen beside the film"
    LAMP = "a signal from beside the film"
    RANGEFINDER = "a rangefinder"
    SCALE = "the scale of the lens"
    OTHER = "something else"


_DISTANCE_STEP = 0.08  # of the logarithm of distance within which settings count as one


@dataclass(frozen=True, kw_only=True)
class FocusSample:
    """A frame of which it is known where focus fell.

    Parameters
    ----------
    aid, by
        Key of the aid it was focused with, and what that shows focus by.
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
    by: ShownBy = ShownBy.OTHER
    stop: float
    object_mm: float
    half_mm: float
    defocus_mm: float
    error_mm: float | None = None
    side: MissSide = MissSide.HIT


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
    by: tuple[ShownBy, ...]
    stops: FloatArray
    objects: FloatArray
    half_windows: FloatArray
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


@dataclass(kw_only=True)
class SampleGroup:
    """Shots at one setting, counted as they come: by side where only that is known, else with their errors, mm."""

    aid: str
    by: ShownBy
    stop: float
    object_mm: float
    half_mm: float
    defocus_mm: float
    sides: dict[MissSide, int] = field(default_factory=lambda: dict.fromkeys(MissSide, 0))
    exact: int = 0
    errors: float = 0.0
    squares: float = 0.0

    def add(self, error_mm: float | None, side: MissSide) -> None:
        """Count a shot by its error in mm, or by its side where that is not known."""
        if error_mm is None:
            self.sides[side] += 1
        else:
            self.exact, self.errors = self.exact + 1, self.errors + error_mm
            self.squares += error_mm**2

    @property
    def count(self) -> int:
        """How many there are, a pure number."""
        return self.exact + sum(self.sides.values())


def settings_of(shots: Iterable[FocusSample], focal_mm: float, *, widest: float | None = None) -> Settings:
    """Sum up shots by setting; focal length in mm. Without its widest stop the lens was open in the widest of them."""
    groups = []
    for shot in shots:
        group = SampleGroup(
            aid=shot.aid,
            by=shot.by,
            stop=shot.stop,
            object_mm=shot.object_mm,
            half_mm=shot.half_mm,
            defocus_mm=shot.defocus_mm,
        )
        group.add(shot.error_mm, shot.side)
        groups.append(group)
    return settings_of_groups(groups, focal_mm, widest=widest)


def settings_of_groups(groups: Iterable[SampleGroup], focal_mm: float, *, widest: float | None = None) -> Settings:
    """Sum up groups; those of an aid and stop that differ in distance by less than 8 % count as one setting.

    Focal length in mm; without its widest stop the lens was open in the widest of the groups.
    """
    alike: dict[tuple[str, float, float], list[SampleGroup]] = {}
    for group in groups:
        near = math.inf if math.isinf(group.object_mm) else round(math.log(group.object_mm) / _DISTANCE_STEP)
        alike.setdefault((group.aid, group.stop, near), []).append(group)
    merged = list(alike.values())

    def mean(name: str) -> FloatArray:
        return np.array(
            [sum(getattr(one, name) * one.count for one in held) / sum(one.count for one in held) for held in merged]
        )

    def total(value: Callable[[SampleGroup], float]) -> FloatArray:
        return np.array([sum(value(one) for one in held) for held in merged], dtype=float)

    stops = mean("stop")
    open_stop = float(np.min(stops)) if len(stops) else 1.0
    return Settings(
        focal_mm=focal_mm, widest=open_stop if widest is None else min(widest, open_stop),
        aids=tuple(held[0].aid for held in merged), by=tuple(held[0].by for held in merged), stops=stops,
        objects=mean("object_mm"), half_windows=mean("half_mm"), defocus=mean("defocus_mm"),
        front=total(lambda one: one.sides[MissSide.FRONT]),
        hit=total(lambda one: one.sides[MissSide.HIT]), behind=total(lambda one: one.sides[MissSide.BEHIND]),
        exact=total(lambda one: one.exact), errors=total(lambda one: one.errors),
        squares=total(lambda one: one.squares),
    )  # fmt: skip
