"""Where everything on the ground strip is drawn: subjects and zones, and the time of a subject on its way."""

from __future__ import annotations

import functools
import math
from collections.abc import Sequence
from dataclasses import dataclass

from welotrope.core.plan.setting import Placement, ZonePlace
from welotrope.core.plan.trap import Trap
from welotrope.core.ring.engraving import fit_labels, numeral
from welotrope.core.units.distance import MM_PER_FOOT, Unit

_STEPS_S = (0.05, 0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 30.0, 60.0)
_MOST, _ROOM, _NARROW_ROOM = 40, 7.0, 17.0  # ticks, percent of the width
LEFT, RIGHT, INFINITY = 9.0, 91.0, 97.0
FIRST, STEP = LEFT - 3, 0.5  # of the table of places
_MOST_LOG = 600.0
_STEPS = (1.0, 2.0, 5.0, 3.0, 1.5, 7.0, 4.0)
_MIN_SPAN = 1.0  # decades


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


@dataclass(frozen=True)
class TimeTick:
    """A moment: its place in percent of the width, and its seconds from passing the plane."""

    percent: float
    text: str
    fits_narrow: bool


@dataclass(frozen=True)
class TimeAxis:
    """Moments along the ground, and the press."""

    ticks: tuple[TimeTick, ...]
    press: float


def time_axis(axis: GroundAxis, trap: Trap) -> TimeAxis:
    """Lay out when the subject is where, 0 s at the plane of focus."""
    if math.isinf(trap.focus_mm):
        return TimeAxis((), axis.percent(trap.press_at_mm))
    ends = sorted((trap.seconds_to(axis.start_mm), trap.seconds_to(axis.end_mm)))
    step = next((one for one in _STEPS_S if (ends[1] - ends[0]) / one <= _MOST), _STEPS_S[-1])
    first = math.ceil(ends[0] / step)
    moments = [step * index for index in range(first, min(math.floor(ends[1] / step), first + 4 * _MOST) + 1)]
    placed = sorted(moments, key=lambda seconds: (abs(seconds), seconds))
    places = [axis.percent(max(trap.focus_mm - seconds * trap.mm_per_s, axis.start_mm)) for seconds in placed]
    shown = fit_labels(places, [_ROOM] * len(places))
    narrow = fit_labels(places, [_NARROW_ROOM] * len(places))
    ticks = sorted((TimeTick(places[i], _text(placed[i]), i in narrow) for i in shown), key=lambda tick: tick.percent)
    return TimeAxis(tuple(ticks), axis.percent(trap.press_at_mm))


def _text(seconds: float) -> str:
    return "0 s" if abs(seconds) < 1e-9 else f"{seconds:+.2g} s".replace("-", "−")


@dataclass(frozen=True, kw_only=True)
class GroundAxis:
    """A logarithmic ground axis from ``start_mm`` to ``end_mm``; infinity has a place of its own at the end.

    ``first``, ``step``, ``last`` and ``infinity`` are places in percent that the script needs with the table.
    """

    start_mm: float
    end_mm: float
    first: float = FIRST
    step: float = STEP
    last: float = RIGHT
    infinity: float = INFINITY

    def percent(self, distance_mm: float) -> float:
        """Return the place of a distance on the strip; beyond the end it runs towards infinity."""
        if math.isinf(distance_mm):
            return INFINITY
        share = math.log(distance_mm / self.start_mm) / math.log(self.end_mm / self.start_mm)
        if share <= 1:
            return max(LEFT + share * (RIGHT - LEFT), FIRST)
        return INFINITY - (INFINITY - RIGHT) / (1 + 3 * (share - 1))

    def distance(self, percent: float) -> float:
        """Return the distance at a place, mm: the way back of :meth:`percent`, infinite from its own place on."""
        if percent >= INFINITY:
            return math.inf
        share = (percent - LEFT) / (RIGHT - LEFT)
        if percent > RIGHT:
            share = 1 + ((INFINITY - RIGHT) / (INFINITY - percent) - 1) / 3
        log_mm = math.log(self.start_mm) + share * math.log(self.end_mm / self.start_mm)
        return math.exp(log_mm) if log_mm < _MOST_LOG else math.inf

    @property
    def table(self) -> tuple[str, ...]:
        """Distances in mm at every step of the strip from its first place to infinity, for the script to look up."""
        count = round((INFINITY - FIRST) / STEP)
        return tuple(f"{self.distance(FIRST + STEP * index):.6g}" for index in range(count))


@dataclass(frozen=True)
class Tick:
    """A labelled tick of the ground; ``fits_narrow`` when it has room on a phone too."""

    percent: float
    text: str
    fits_narrow: bool


@dataclass(frozen=True, kw_only=True)
class Peg:
    """A subject on the ground; ``level`` staggers names that would run into each other."""

    index: int
    name: str
    distance_mm: float
    percent: float
    place: ZonePlace
    outside_mm: float
    level: int
    flip: bool

    @property
    def top_px(self) -> int:
        """How far above the ground its head stands (negative is up)."""
        return -22 - 23 * self.level

    @property
    def hit_px(self) -> int:
        """Where the area begins above on which a press means it."""
        return self.top_px - 14

    @property
    def hit_height_px(self) -> int:
        """Height of that area, down to the ground."""
        return -self.hit_px


@dataclass(frozen=True, kw_only=True)
class GroundView:
    """Everything the ground partial draws."""

    axis: GroundAxis
    rows: tuple[tuple[Unit, tuple[Tick, ...]], ...]
    plane: float
    near: float
    far: float
    near_mm: float
    far_mm: float
    pegs: tuple[Peg, ...]
    unit: Unit

    @property
    def width(self) -> float:
        """Width of the zone."""
        return self.far - self.near

    @property
    def near_inside(self) -> bool:
        """Whether the near limit's words have to stand inside the zone."""
        return self.near < 24

    @property
    def far_inside(self) -> bool:
        """Whether the far limit's words have to stand inside the zone."""
        return self.far > 80


def ground_view(
    closest_mm: float, focus_mm: float, near_mm: float, far_mm: float, placements: list[Placement], unit: Unit
) -> GroundView:
    """Lay out the scene from the side for a lens whose closest focus is ``closest_mm``."""
    axis = axis_for(closest_mm, [placement.subject.distance_mm for placement in placements])
    return GroundView(
        axis=axis, rows=tuple((row_unit, ticks_for(axis, row_unit)) for row_unit in (unit, unit.other)),
        plane=axis.percent(focus_mm), near=axis.percent(near_mm), far=axis.percent(far_mm), near_mm=near_mm,
        far_mm=far_mm, pegs=_pegs(axis, placements), unit=unit,
    )  # fmt: skip


def axis_for(closest_mm: float, subjects_mm: list[float]) -> GroundAxis:
    """Return the axis from closest focus (mm) to far beyond it, every subject on it."""
    finite = [mm for mm in subjects_mm if math.isfinite(mm)]
    start = min([closest_mm, *finite]) * 0.9
    end = max([closest_mm * 40, 20_000.0, *(mm * 1.3 for mm in finite)])
    return GroundAxis(start_mm=start, end_mm=max(end, start * 10**_MIN_SPAN))


@functools.lru_cache(128)
def ticks_for(axis: GroundAxis, unit: Unit) -> tuple[Tick, ...]:
    """Return the labelled ticks of an axis in a unit, those with room only."""
    size = 1000.0 if unit is Unit.METRIC else MM_PER_FOOT
    first = math.floor(math.log10(axis.start_mm / size))
    last = math.ceil(math.log10(axis.end_mm / size))
    distances = [step * 10**power * size for step in _STEPS for power in range(first, last + 1)]
    inside = [mm for mm in distances if axis.start_mm <= mm <= axis.end_mm]
    places = [axis.percent(mm) for mm in inside]
    texts = [_ground_text(mm, unit) for mm in inside]
    kept = sorted(fit_labels(places, [4.0 + 0.7 * len(text) for text in texts]), key=places.__getitem__)
    narrow = fit_labels(places, [4.0 + 2.2 * len(text) for text in texts])
    return tuple(Tick(places[index], texts[index], index in narrow and places[index] < 88) for index in kept)


def _ground_text(mm: float, unit: Unit) -> str:
    text = numeral(mm, unit)
    return f"{mm / MM_PER_FOOT * 12:.0f}″" if unit is Unit.FEET and mm < MM_PER_FOOT * 0.999 else text


def _pegs(axis: GroundAxis, placements: list[Placement]) -> tuple[Peg, ...]:
    order = sorted(range(len(placements)), key=lambda index: placements[index].subject.distance_mm)
    level_of = {index: rank % 4 for rank, index in enumerate(order)}
    pegs = []
    for index, placement in enumerate(placements):
        subject = placement.subject
        place = axis.percent(subject.distance_mm)
        name = subject.name or f"subject {index + 1}"
        flip = place > 70 or (placement.place is ZonePlace.TOO_NEAR and place > 46)
        pegs.append(
            Peg(
                index=index,
                name=name,
                distance_mm=subject.distance_mm,
                percent=place,
                place=placement.place,
                outside_mm=placement.outside_mm,
                level=level_of[index],
                flip=flip,
            )
        )
    return tuple(pegs)
