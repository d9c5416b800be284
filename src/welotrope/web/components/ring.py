"""Where everything on the unrolled ring is drawn: pixels from the index, or along the strip from infinity."""

from __future__ import annotations

import functools
import json
import math
from dataclasses import asdict, dataclass, replace

import numpy as np

from welotrope.core.json_values import JsonObject
from welotrope.core.kit.camera_kind import ScaleShown
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.setup import Setup
from welotrope.core.optics.depth import BLUR_TOLERANCE
from welotrope.core.plan.field_settings import Preset
from welotrope.core.plan.setting import READ_DEG, hyperfocal_angle, marks_on_limits, ring_setting
from welotrope.core.ring.engraving import EngravedMark, engraved_marks, fit_labels
from welotrope.core.ring.focus_ring import FocusRing
from welotrope.core.ring.table import ANGLE_UNIT_DEG, STEP_DEG, VERGENCE_UNIT, IntArray, ring_table, vergence_integers
from welotrope.core.ring.window import RingWindow, sharp_window
from welotrope.core.units.distance import Unit
from welotrope.core.units.exposure import format_stop
from welotrope.core.units.turn import turn_text

PX_PER_DEG = 8.0
_NUMERAL_GAP_PX, _NUMERAL_CHAR_PX = 10.0, 10.5
_TICK_GAP_PX = 5.0
# Upwards from the ring's upper edge, on which everything is drawn.
_BRACKET_FOOT_PX, _BRACKET_RISE_PX = -10.0, 42.0
_RING_TOP_PX = 74
_PAPER_PX = 30
_OVERVIEW_LEFT, _OVERVIEW_WIDTH = 3.0, 94.0  # percent
_PRESET_GAP_PX, _PRESET_CHAR_PX = 22.0, 7.0


@functools.lru_cache(maxsize=32)
def table_json(setup: Setup, stop: float) -> str:
    """Return the lookup table of a set-up for its marked stops and ``stop``, safe inside a script element.

    It is kept for the next page of the same set-up.
    """
    data = table_data(setup, tuple(sorted({*setup.lens.stops, stop})))
    return json.dumps(data, separators=(",", ":")).replace("<", "\\u003c")


def table_data(setup: Setup, stops: tuple[float, ...], *, step_deg: float = STEP_DEG) -> JsonObject:
    """Return the lookup table of a set-up for stops, its grid of ``step_deg`` degrees, as JSON values."""
    shifts = {stop: setup.shift_deg(stop) for stop in stops}
    table = ring_table(setup.ring(), stops, setup.blur_mm, shifts=shifts, step_deg=step_deg)
    return {
        "step_deg": step_deg,
        "throw_deg": table.throw_deg,
        "start_deg": table.start_deg,
        "shift_deg": [table.shift[stop] for stop in stops],
        "indicator_deg": setup.known.step_deg,
        "turn_in": asdict(setup.turn_in) if setup.turn_in else None,
        "angle_unit_deg": ANGLE_UNIT_DEG,
        "vergence_unit": VERGENCE_UNIT,
        "stops": stops,
        "factor": setup.lens.factor,
        "vergence": _second_differences(table.vergence),
        "near": [_second_differences(table.near[stop]) for stop in stops],
        "far": [_second_differences(table.far[stop]) for stop in stops],
        "width": [_second_differences(table.width[stop]) for stop in stops],
        "near_vergence": [_second_differences(table.near_vergence[stop]) for stop in stops],
        "far_vergence": [_second_differences(table.far_vergence[stop]) for stop in stops],
        "tolerance": (BLUR_TOLERANCE - 1) / 2,
        "scale": _second_differences(_engraved(setup, step_deg))
        if setup.has_scale and setup.known.scale != setup.known.true
        else None,
        "read_deg": READ_DEG,
        "marks_read": [_marks_read(setup, stop) for stop in stops],
        "mm_per_deg": setup.mm_per_degree,
    }


def _marks_read(setup: Setup, stop: float) -> bool:
    """Return whether ∞ on the far depth mark of a stop is its hyperfocal setting."""
    return marks_on_limits(setup, ring_setting(setup, hyperfocal_angle(setup, stop), stop)) is not None


def _engraved(setup: Setup, step_deg: float) -> IntArray:
    """Return what the engraving reads over the travel, as vergence on the table's grid from 0."""
    scale = setup.known.scale
    angles = np.arange(math.ceil(setup.known.true.throw_deg / step_deg) + 1, dtype=np.float64) * step_deg
    return vergence_integers(scale.vergence_at_angle(angles))


def _second_differences(values: IntArray) -> list[int]:
    """Return [first, first step, changes of step …]; the browser sums twice."""
    steps = np.diff(values)
    return [int(values[0]), int(steps[0]), *np.diff(steps).tolist()]


@dataclass(frozen=True, kw_only=True)
class Bracket:
    """A stop's pair of depth marks, in pixels from the index; ``top_px`` staggers the labels of a row of stops."""

    stop: float
    text: str
    near_px: float
    far_px: float
    top_px: float
    chosen_top_px: float
    chosen: bool
    labelled: bool


@dataclass(frozen=True)
class PresetTick:
    """A pencil tick on the strip, pixels along it from infinity; its name stands in lane 0 or 1, or has no room."""

    id: int
    name: str
    at_px: float
    lane: int | None

    @property
    def foot_px(self) -> float:
        """Where the tick, which leans a little, ends below."""
        return self.at_px - 1

    @property
    def head_px(self) -> float:
        """Where it begins above."""
        return self.at_px + 1.5

    @property
    def hit_px(self) -> float:
        """Where the area begins on which a press means it."""
        return self.at_px - 9

    @property
    def hit_width_px(self) -> int:
        """Width of that area: the tick, and its name where there is room for one."""
        return 26 + (8 * len(self.name) if self.lane is not None else 0)

    @property
    def name_px(self) -> float:
        """Where its name begins."""
        return self.at_px + 7

    @property
    def name_y(self) -> int:
        """How far below the ring's edge its name stands."""
        return 124 + 17 * (self.lane or 0)


@dataclass(frozen=True)
class NumeralRow:
    """One row of numerals: marks with their pixel along the strip."""

    unit: Unit
    marks: tuple[tuple[float, EngravedMark], ...]


@dataclass(frozen=True)
class PaperStrip:
    """A strip laid on the ring under the engraving: what is truly in focus there, or an indicator's steps."""

    label: str
    title: str
    marks: tuple[tuple[float, EngravedMark], ...]


@dataclass(frozen=True)
class RuleTick:
    """A tick of the rule in millimetres along the ring, pixels from the index; every tenth has its number."""

    at_px: float
    foot_px: int
    text: str


@dataclass(frozen=True, kw_only=True)
class Overview:
    """The whole throw at a glance, in percent of its width: index, window, presets, and its two ends."""

    index: float
    window: float
    window_width: float
    presets: tuple[float, ...]
    far_end: float
    near_end: float


@dataclass(frozen=True, kw_only=True)
class RingView:
    """Everything the ring partial draws.

    ``endless`` tells a ring without end stops, ``drawn`` whether it is a ring at all, ``noun`` what it is called.
    ``direction`` is +1 when nearer distances lie to the right of infinity, −1 when to the left; ``shift_px`` is where
    the plane lies from the index at the chosen stop, 0 without focus shift.
    """

    px_per_deg: float
    direction: int
    offset_px: float
    throw_px: float
    rows: tuple[NumeralRow, ...]
    paper: PaperStrip | None
    shift_px: float
    brackets: tuple[Bracket, ...]
    presets: tuple[PresetTick, ...]
    mm_rule: tuple[RuleTick, ...]
    inscription: str
    angle_deg: float
    throw_deg: float
    throw_text: str
    chosen: Bracket
    endless: bool = False
    drawn: ScaleShown = ScaleShown.RING
    noun: str = "ring"

    @property
    def top_px(self) -> int:
        """Where the ring's upper edge lies: everything else is drawn from it."""
        return _RING_TOP_PX

    @property
    def height_px(self) -> int:
        """Height of the whole drawing."""
        return (254 if self.mm_rule else 226) + self.paper_px

    @property
    def paper_px(self) -> int:
        """Height that a strip of paper under the engraving takes."""
        return _PAPER_PX if self.paper else 0

    @property
    def index_foot_px(self) -> int:
        """How far below the ring's edge the index line ends."""
        return 154 if self.paper else 148

    @property
    def window_px(self) -> float:
        """Left end of the sharp window, from the index."""
        return min(self.chosen.near_px, self.chosen.far_px)

    @property
    def window_end_px(self) -> float:
        """Right end of the sharp window, from the index."""
        return max(self.chosen.near_px, self.chosen.far_px)

    @property
    def window_width_px(self) -> float:
        """Width of the sharp window."""
        return self.window_end_px - self.window_px

    @property
    def walls_px(self) -> tuple[float, ...]:
        """Where the end stops stand along the strip, past infinity and closest focus; an endless ring has none."""
        if self.endless or self.drawn is not ScaleShown.RING:
            return ()
        if self.direction > 0:
            return -34.0, self.throw_px + 24
        return 20.0, self.throw_px - 38

    @property
    def inscription_px(self) -> int:
        """Where the lens's name stands, on the blank side past infinity."""
        return -150 * self.direction

    @property
    def strip_px(self) -> float:
        """Where a strip of paper begins, a little beyond the travel."""
        return min(0.0, self.throw_px) - 30

    @property
    def strip_width_px(self) -> float:
        """Length of a strip of paper over the whole travel."""
        return abs(self.throw_px) + 60

    def half_px(self, degrees: float | None) -> float:
        """Pixels of an error of so many degrees either side of the index; none when it is not known."""
        return (degrees or 0.0) * self.px_per_deg

    @property
    def overview(self) -> Overview:
        """The whole throw in percent of the width."""
        ends = sorted((self._percent(self.near_deg), self._percent(self.far_deg)))
        presets = tuple(self._percent(tick.at_px / self.px_per_deg * self.direction) for tick in self.presets)
        return Overview(
            index=self._percent(self.angle_deg), window=ends[0], window_width=ends[1] - ends[0], presets=presets,
            far_end=self._percent(0.0), near_end=self._percent(self.throw_deg),
        )  # fmt: skip

    def _percent(self, deg: float) -> float:
        share = deg / self.throw_deg
        return _OVERVIEW_LEFT + _OVERVIEW_WIDTH * (share if self.direction > 0 else 1 - share)

    @property
    def near_deg(self) -> float:
        """Ring angle of the chosen stop's near mark, within the travel."""
        return min(max(self.angle_deg + self.chosen.near_px * self.direction / self.px_per_deg, 0.0), self.throw_deg)

    @property
    def far_deg(self) -> float:
        """Ring angle of the chosen stop's far mark, within the travel."""
        return min(max(self.angle_deg + self.chosen.far_px * self.direction / self.px_per_deg, 0.0), self.throw_deg)


def ring_view(
    setup: Setup, angle_deg: float, stop: float, presets: list[Preset], unit: Unit, *, px_per_deg: float = PX_PER_DEG
) -> RingView:
    """Lay out the ring of a set-up at a ring angle and stop; the leading unit is the upper row."""
    lens, known = setup.lens, setup.known
    throw_deg = known.true.throw_deg
    engraved = known.scale if lens.engraved_units and known.step_deg is None else known.true
    direction = lens.direction
    scale = direction * px_per_deg
    brackets = _brackets(setup, angle_deg, stop, scale)
    return RingView(
        px_per_deg=px_per_deg, direction=direction, offset_px=-angle_deg * scale, throw_px=throw_deg * scale,
        rows=tuple(_row(lens, engraved, row_unit, scale) for row_unit in (unit, unit.other)),
        paper=_paper(setup, unit, scale), shift_px=-setup.shift_deg(stop) * scale, brackets=brackets,
        presets=_preset_ticks(setup, presets, scale), mm_rule=_mm_rule(setup, px_per_deg), inscription=lens.name,
        angle_deg=angle_deg, throw_deg=throw_deg, throw_text=turn_text(throw_deg, setup.turn_in),
        chosen=next(bracket for bracket in brackets if bracket.chosen), endless=lens.fit.endless,
        drawn=setup.body.kind.scale, noun=setup.noun,
    )  # fmt: skip


def _paper(setup: Setup, unit: Unit, scale: float) -> PaperStrip | None:
    known = setup.known
    if known.step_deg is not None:
        last = math.floor(known.true.throw_deg / known.step_deg + 1e-6)
        every = max(1, math.ceil(16 / abs(known.step_deg * scale)))
        steps = [(step * known.step_deg, f"{step}") for step in range(0, last + 1, every)]
        marks = tuple((angle * scale, EngravedMark(angle, 0.0, text, numeral=True)) for angle, text in steps)
        return PaperStrip("step", "Steps of the indicator", marks)
    if not known.scale_is_off:
        return None
    bare = replace(setup.lens, engraved_m=(), engraved_ft=())
    row = _row(bare, known.true, unit, scale)
    return PaperStrip("true", f"What is truly in focus, in {unit.value}", row.marks)


@functools.lru_cache(128)
def _row(lens: Lens, ring: FocusRing, unit: Unit, scale: float) -> NumeralRow:
    per_px = 1 / abs(scale)
    own = lens.engraved_in(unit) if unit in lens.engraved_units else ()
    marks = engraved_marks(
        ring, unit, _NUMERAL_GAP_PX * per_px, _NUMERAL_CHAR_PX * per_px, engraved=own, tick_deg=_TICK_GAP_PX * per_px
    )
    return NumeralRow(unit, tuple((mark.angle_deg * scale, mark) for mark in marks))


def _brackets(setup: Setup, angle_deg: float, stop: float, scale: float) -> tuple[Bracket, ...]:
    ring = setup.ring()
    stops = sorted({*setup.lens.stops, stop})
    windows: list[RingWindow[float]] = [
        sharp_window(ring, angle_deg - setup.shift_deg(N), N, setup.blur_mm) for N in stops
    ]
    near = [(window.near_deg - angle_deg) * scale for window in windows]
    far = [(window.far_deg - angle_deg) * scale for window in windows]
    # The index triangle takes the room of labels nearer than this.
    clear = [index for index in range(len(stops)) if abs(near[index]) > 17 or stops[index] == stop]
    order = sorted(clear, key=lambda index: (stops[index] != stop, -stops[index]))
    # The chosen stop's larger label stands wholly outward of its mark, clear of the triangle.
    shift = {index: 14.0 if stops[index] == stop else 0.0 for index in order}
    places = [abs(near[index]) + shift[index] for index in order]
    kept = fit_labels(places, [30.0 if shift[index] else 18.0 for index in order])
    labelled = {order[position] for position in kept}
    rise = min(6.5, _BRACKET_RISE_PX / max(len(stops) - 1, 1))
    return tuple(
        Bracket(
            stop=N,
            text=format_stop(setup.marked_stop(N)).removeprefix("f/"),
            near_px=near[index],
            far_px=far[index],
            top_px=_BRACKET_FOOT_PX - rise * index,
            chosen_top_px=_BRACKET_FOOT_PX - 4 - rise * index,
            chosen=stop == N,
            labelled=index in labelled or stops[index] == stop,
        )
        for index, N in enumerate(stops)
    )


def _preset_ticks(setup: Setup, presets: list[Preset], scale: float) -> tuple[PresetTick, ...]:
    ring = setup.ring()
    reached = [preset for preset in presets if preset.distance_mm >= ring.closest_mm * (1 - 1e-6)]
    places = [setup.ring(preset.stop).setting_for(preset.distance_mm) * scale for preset in reached]
    # Labels stand to the right of their tick, so their middles are shifted by half a label.
    widths = [_PRESET_GAP_PX + _PRESET_CHAR_PX * len(preset.name) for preset in reached]
    middles = [place + width / 2 for place, width in zip(places, widths, strict=True)]
    lanes: dict[int, int] = {}
    for lane in (0, 1):
        left = [index for index in range(len(reached)) if index not in lanes]
        kept = fit_labels([middles[index] for index in left], [widths[index] for index in left])
        lanes |= {left[position]: lane for position in kept}
    return tuple(
        PresetTick(preset.id, preset.name, place, lanes.get(index))
        for index, (preset, place) in enumerate(zip(reached, places, strict=True))
    )


def _mm_rule(setup: Setup, px_per_deg: float) -> tuple[RuleTick, ...]:
    """Millimetre ticks on both sides of the index."""
    if setup.mm_per_degree is None:
        return ()
    return _rule_ticks(px_per_deg / setup.mm_per_degree)


@functools.lru_cache(64)
def _rule_ticks(px_per_mm: float) -> tuple[RuleTick, ...]:
    return tuple(
        RuleTick(sign * mm * px_per_mm, 159 if mm % 5 == 0 else 154, _rule_text(mm))
        for mm in range(math.ceil(900 / px_per_mm))
        for sign in ((1, -1) if mm else (1,))
    )


def _rule_text(mm: int) -> str:
    return "" if mm % 10 else f"{mm}" if mm else "0 mm along the ring"
