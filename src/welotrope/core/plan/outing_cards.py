"""What an outing takes along on paper: cards of words, ticks and tables, and the figures of a pocket card."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from welotrope.core.exposure.light import light_table
from welotrope.core.exposure.shutter_dial import ShutterDial
from welotrope.core.kit.body import longest_words, shutter_of
from welotrope.core.kit.setup import Setup
from welotrope.core.kit.sheet import SheetLine
from welotrope.core.plan.close_plan import ReachRow
from welotrope.core.plan.field_settings import FieldSetting
from welotrope.core.plan.moving import MovingPlan
from welotrope.core.plan.night_plan import NightStep
from welotrope.core.plan.own_measures import OwnMeasures
from welotrope.core.plan.setting import RingSetting, hyperfocal_angle, marks_on_limits, ring_setting, setting_words
from welotrope.core.plan.zone_set import lens_at
from welotrope.core.plan.zones import frame_stack
from welotrope.core.units.distance import Unit, format_distance, format_rough, format_span
from welotrope.core.units.exposure import format_shutter, format_stop

MOST_STACK = 60
_STOPS_ACROSS = 4
_LOG_HEAD = (("#", 0.09), ("lens/stop", 0.2), ("zone or distance", 0.33), ("result", 0.17), ("note", 0.21))
MAX_STOPS, MAX_DISTANCES = 5, 6
_NICE = {
    Unit.METRIC: (0.5, 0.7, 1, 1.5, 2, 3, 5, 10, 20),
    Unit.FEET: (1.5, 2, 3, 4, 5, 7, 10, 15, 30, 60),
}


@dataclass(frozen=True)
class Words:
    """A line of text, wrapped where it must be; ``big`` for what is read at arm's length."""

    text: str
    big: bool = False


@dataclass(frozen=True)
class Ticks:
    """Lines to tick off, each with what it is for, empty for nothing."""

    lines: tuple[tuple[str, str], ...]


@dataclass(frozen=True)
class Table:
    """A table: its head, and rows of as many cells."""

    head: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]


@dataclass(frozen=True)
class Blank:
    """A table to fill with a pencil: its head with shares of the width, how many rows, and the first one's number."""

    head: tuple[tuple[str, float], ...]
    count: int
    first: int = 1


@dataclass(frozen=True)
class Together:
    """Lines that stay together."""

    lines: tuple[Words, ...]


CardBlock = Words | Ticks | Table | Blank | Together


@dataclass(frozen=True)
class Card:
    """A card: what it is, and what stands on it."""

    title: str
    blocks: tuple[CardBlock, ...]


def settings_card(setup: Setup, settings: Sequence[FieldSetting], own: OwnMeasures, unit: Unit) -> Card:
    """Return the card of zones and settings: where to put the index, what stands on the far mark, what is sharp.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    settings
        Settings of the lens by name.
    own
        The photographer's own measures.
    unit
        Leading unit: metric, or feet and inches.
    """
    blocks: list[CardBlock] = []
    for one in settings:
        at = one.setting
        paced = " to ".join(dict.fromkeys(word for word in (own.words(at.near_mm), own.words(at.far_mm)) if word))
        lines = (
            Words(f"{one.name}: {_index(setup, at, unit)} at {format_stop(at.stop)}", big=True),
            Words(f"{_both(at.near_mm, at.far_mm, unit)}. {_far_mark(setup, at, unit)}"),
            *((Words(f"In your own measures: {paced}"),) if paced else ()),
        )
        blocks.append(Together(lines))
    if setup.known.scale_is_off:
        blocks.append(Words("The index is as engraved; on this set-up it stands elsewhere than what is in focus."))
    return Card(f"{setup.name}: settings", tuple(blocks))


def light_card(setup: Setup, iso: float) -> Card:
    """Return the exposure table of a set-up at an ISO, at an even choice of its stops.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    iso
        Sensitivity, ISO 1 to 1 000 000.
    """
    stops = evenly(sorted(setup.lens.stops), _STOPS_ACROSS)
    dial = shutter_of(setup.body)
    table = light_table(stops, iso, dial)
    rows = tuple((row.name, *(cell.short_text for cell in row.cells)) for row in table)
    blocks: list[CardBlock] = [Table(("", *(format_stop(stop) for stop in stops)), rows)]
    if any(cell.shutter_s is None for row in table for cell in row.cells):
        fastest = format_shutter(dial.fastest_s)
        words = f"−2 st.: two stops too bright for {fastest}; stop down by that, or take a filter of 2 stops."
        blocks.append(Words(words))
    return Card(f"Light, ISO {iso:g}", tuple(blocks))


def moving_card(plan: MovingPlan, what: str, dial: ShutterDial, unit: Unit) -> Card:
    """Return the stations for a moving subject: what to set, where the subject is when one presses.

    Parameters
    ----------
    plan
        Plan for the moving subject.
    what
        What it is, in words.
    dial
        Shutter times of the body, in s.
    unit
        Leading unit: metric, or feet and inches.
    """
    rows = tuple(
        (
            str(number),
            _reading(one.setting, unit),
            format_distance(one.trap.press_at_mm, unit),
            "" if one.seconds is None else f"{one.seconds:.1f} s",
        )
        for number, one in enumerate(plan.stations, start=1)
    )
    first = plan.first.setting
    shutter = "any shutter time" if math.isinf(plan.frozen_s) else f"{longest_words(dial, plan.frozen_s)}; or shorter"
    return Card(
        f"Trap: {what}",
        (
            Words(f"{format_stop(first.stop)}, {shutter}."),
            Table(("", "index on", "press when it is at", "after"), rows),
            Words("Watch traffic and your footing."),
        ),
    )


def close_card(rows: Sequence[ReachRow], unit: Unit) -> Card:
    """Return what the lens and each attachment reach: the picture's width and the distance from the front.

    Parameters
    ----------
    rows
        What the lens reaches, by attachment.
    unit
        Leading unit: metric, or feet and inches.
    """
    made = []
    for row in rows:
        if row.near is None or row.far is None:
            continue
        widths = f"{format_rough(row.near.width_mm, unit)} to {format_rough(row.far.width_mm, unit)}"
        away = f"{format_rough(row.near.setting.working_mm, unit)} to {format_rough(row.far.setting.working_mm, unit)}"
        made.append((row.name or "the lens alone", widths, away, f"{row.near.lost_stops:.1f}"))
    return Card("Close up", (Table(("with", "picture wide", "from the front", "stops lost"), tuple(made)),))


def stack_card(setup: Setup, near_mm: float, far_mm: float, stop: float, overlap: float, unit: Unit) -> Card:
    """Return the frames of a stack by the ring between two distances, mm from the film plane, to tick off.

    Errors as ``zones.frame_stack``, and as ``FocusRing.check_near`` for what the ring does not reach.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    near_mm
        Nearest distance in mm.
    far_mm
        Farthest distance in mm; infinity allowed.
    stop
        F-number, 0.5 to 128.
    overlap
        Share of a window by which neighbours overlap, 0 to 0.9.
    unit
        Leading unit: metric, or feet and inches.
    """
    ring = setup.ring(stop)
    ring.check_near(near_mm, field="stack from")
    frames = frame_stack(lens_at(setup, stop), near_mm, far_mm, overlap=overlap).frames
    lines = tuple(
        (f"{format_distance(frame.focus_mm, unit)}", f"{float(ring.angle_at_extension(frame.focus_x)):.1f}° from ∞")
        for frame in frames[:MOST_STACK]
    )
    more = len(frames) - len(lines)
    words = f"{len(frames)} frames at {format_stop(stop)}, {overlap:.0%} over each other, the nearest first."
    blocks: list[CardBlock] = [Words(words), Ticks(lines)]
    return Card("Stack", (*blocks, *((Words(f"… and {more} more."),) if more else ())))


def night_card(steps: Sequence[NightStep]) -> Card:
    """Return the steps of a night, to tick off.

    Parameters
    ----------
    steps
        Steps of the night, in order.
    """
    ticks = Ticks(tuple((step.do, step.why) for step in steps))
    return Card("Night", (ticks, Words("Know the place, carry a light, do not go alone.")))


def sheet_card(lines: Sequence[SheetLine]) -> Card:
    """Return the set-up sheet, to tick off.

    Parameters
    ----------
    lines
        Lines of the set-up sheet.
    """
    return Card("Set-up sheet", (Ticks(tuple((line.text, line.reason) for line in lines)),))


def log_card(count: int, *, first: int = 1) -> Card:
    """Return lines to fill in with a pencil, numbered; what is written so is typed in as it stands.

    Parameters
    ----------
    count
        How many.
    first
        Number that counting begins with.
    """
    return Card("Log", (Blank(_LOG_HEAD, count, first),))


def _index(setup: Setup, at: RingSetting, unit: Unit) -> str:
    words = setting_words(setup, at.angle_deg, at.stop)
    return f"indicator {words}" if words else f"index {_reading(at, unit)}"


def _reading(at: RingSetting, unit: Unit) -> str:
    return format_distance(at.named_mm, unit)


def _far_mark(setup: Setup, at: RingSetting, unit: Unit) -> str:
    marks = marks_on_limits(setup, at)
    if marks is None:
        return ""
    mark = format_stop(marks.stop).removeprefix("f/")
    return f"{format_distance(at.far_mm, unit)} on the {marks.far_side.value}-hand {mark} mark."


def _both(near_mm: float, far_mm: float, unit: Unit) -> str:
    lead, second = (format_span(near_mm, far_mm, one) for one in (unit, unit.other))
    return f"Sharp {lead.near} to {lead.far} ({second.near} to {second.far})"


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

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    unit
        Leading unit: metric, or feet and inches.
    stops
        Marked f-numbers.
    distances_mm
        Distances in mm.

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
    """Return at most ``most`` (a pure number) of the values, evenly spread, both ends kept.

    Parameters
    ----------
    values
        Numbers in one unit.
    most
        How many at most.
    """
    if len(values) <= most:
        return tuple(values)
    return tuple(values[round(i * (len(values) - 1) / (most - 1))] for i in range(most))
