"""Whether the light affords a stop: shutter, ISO, movement, shake; what breaks first, what to give up."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from enum import StrEnum

from welotrope.core.exposure.film import long_exposure
from welotrope.core.exposure.holding import Holding, slowest_held
from welotrope.core.exposure.light import shutter_for
from welotrope.core.exposure.motion import image_speed, slowest_shutter
from welotrope.core.exposure.shutter_dial import MARKED, marked_iso
from welotrope.core.kit.body import Body
from welotrope.core.kit.setup import Setup
from welotrope.core.optics.thin_lens import magnification
from welotrope.core.plan.setting import ring_setting
from welotrope.core.plan.zone import plan_film_zone
from welotrope.core.units.stops import format_stop

FASTEST_S = MARKED[-1]
USUAL_MOST_ISO = 6400.0
_FULL_MARK = 1 / 3
FLASH_REACH_MM = 6000.0
MOST_PUSH = 3.0


class Breaks(StrEnum):
    """What keeps a stop from working, the first that does."""

    NOTHING = "nothing"
    ZONE = "the zone is too short"
    MOVEMENT = "the subject blurs"
    SHAKE = "the hand shakes"
    BRIGHT = "too bright for the shutter"


@dataclass(frozen=True, kw_only=True)
class Circumstances:
    """What is asked of the light.

    Parameters
    ----------
    ev
        Exposure value at ISO 100.
    iso
        As loaded, or the one to begin with.
    most_iso
        Highest one would go; equal to ``iso`` when it is fixed, as with film.
    filter_stops
        What a filter takes, stops.
    speed, angle_deg
        Of what moves, m/s and degrees to the axis.
    holding
        How the camera is held.
    steady
        How many times slower than the rule the own hand is good for.
    exponent
        Of reciprocity failure; None for a sensor, or film whose sheet is not at hand.
    """

    ev: float
    iso: float
    most_iso: float
    holding: Holding
    filter_stops: float = 0.0
    speed: float = 0.0
    angle_deg: float = 90.0
    steady: float = 1.0
    exponent: float | None = None

    def on(self, body: Body) -> Circumstances:
        """Return them as a body has them: film fixes the ISO, and only film fails in long exposures."""
        return replace(self, most_iso=self.iso) if body.is_film else replace(self, exponent=None)

    @property
    def iso_free(self) -> bool:
        """Whether the ISO may be raised."""
        return self.most_iso > self.iso * 1.01


@dataclass(frozen=True, kw_only=True)
class StopChoice:
    """A stop in this light.

    Parameters
    ----------
    stop
        Marked.
    near_mm, far_mm, holds
        Its zone at the plane of the plan, and whether that holds what is wanted.
    shutter_s
        At the ISO used, reciprocity counted in.
    iso
        Used: as low as the slowest usable shutter lets it be.
    slowest_s
        Slowest shutter that movement and hand allow; infinite when neither moves.
    blur_mm
        How far the image of the subject moves in that time, mm.
    breaks
        What goes first.
    short_stops
        By how many stops the light falls short; 0 when it does not.
    """

    stop: float
    near_mm: float
    far_mm: float
    holds: bool
    shutter_s: float
    iso: float
    slowest_s: float
    blur_mm: float
    breaks: Breaks
    short_stops: float


@dataclass(frozen=True, kw_only=True)
class GiveUp:
    """A way out.

    Parameters
    ----------
    what, cost
        What to do, and what it takes.
    helps_stops
        By how many stops it helps.
    enough
        Whether it does alone.
    burden
        How much is given up, for the order; little first.
    left
        The stop whose zone is left; None where the zone stays.
    """

    what: str
    cost: str
    helps_stops: float
    enough: bool
    burden: int
    left: StopChoice | None = None


@dataclass(frozen=True, kw_only=True)
class LightPlan:
    """The stops in this light at one plane, the one to use, and ways out when none does.

    ``focus_mm`` and ``angle_deg`` are where the ring stands, ``moves_mm_per_s`` how fast the image moves there.
    """

    rows: tuple[StopChoice, ...]
    best: StopChoice
    wanted: StopChoice
    focus_mm: float
    angle_deg: float
    moves_mm_per_s: float
    held_s: float
    frozen_s: float
    ways_out: tuple[GiveUp, ...]


def plan_light(setup: Setup, near_mm: float, far_mm: float, asked: Circumstances) -> LightPlan:
    """Plan the exposure of a zone between two distances, mm from the film plane, one of which may be both.

    Raises
    ------
    ConflictError, OutOfRangeError, TooCloseError
        When the zone cannot be focused or a value is out of range.
    """
    ring, asked = setup.ring(), asked.on(setup.body)
    ring.check_near(near_mm, field="near")
    x = _focus(setup, near_mm, far_mm)
    angle = ring.clamp(float(ring.angle_at_extension(x)))
    x = float(ring.extension_at_angle(angle))
    m = float(magnification(max(x, 0.0), ring.focal_mm))
    subject_mm = max(float(ring.distance_at_angle(angle)), near_mm) if math.isinf(far_mm) else (near_mm + far_mm) / 2
    moves = _image_speed(setup, near_mm if math.isinf(subject_mm) else subject_mm, asked)
    held = slowest_held(ring.focal_mm, setup.body.image, setup.blur_mm, asked.holding, asked.steady)
    frozen = slowest_shutter(moves, setup.blur_mm)
    rows = tuple(
        _choice(setup, angle, stop, (near_mm, far_mm), asked, m, moves, held, frozen)
        for stop in sorted(setup.lens.stops)
    )
    working = [row for row in rows if row.breaks is Breaks.NOTHING]
    wanted = next((row for row in rows if row.holds), rows[-1])
    best = working[0] if working else min(rows, key=lambda row: (row.short_stops, not row.holds, -row.stop))
    ways = () if working else tuple(_ways_out(setup, wanted, rows, asked, frozen))
    return LightPlan(
        rows=rows,
        best=best,
        wanted=wanted,
        focus_mm=float(ring.distance_at_angle(angle)),
        angle_deg=angle,
        moves_mm_per_s=moves,
        held_s=held,
        frozen_s=frozen,
        ways_out=ways,
    )


def _focus(setup: Setup, near_mm: float, far_mm: float) -> float:
    ring = setup.ring()
    if far_mm <= near_mm * (1 + 1e-6):
        return float(ring.extension_at_distance(near_mm))
    plan = plan_film_zone(
        near_mm,
        far_mm,
        ring.focal_mm,
        setup.blur_mm,
        setup.lens.stops,
        h=ring.h_mm,
        beyond=ring.beyond,
        travel=ring.travel_x,
    )
    return plan.focus_x


def _image_speed(setup: Setup, distance_mm: float, asked: Circumstances) -> float:
    ring = setup.ring()
    x = float(ring.extension_at_distance(distance_mm))
    m = float(magnification(x, ring.focal_mm))
    return image_speed(m, distance_mm - ring.focal_mm - x - ring.h_mm, asked.speed, asked.angle_deg)


def _choice(
    setup: Setup,
    angle: float,
    stop: float,
    wanted: tuple[float, float],
    asked: Circumstances,
    m: float,
    moves: float,
    held: float,
    frozen: float,
) -> StopChoice:
    zone = ring_setting(setup, angle, stop).zone
    holds = zone.contains(wanted[0]) and (zone.contains(wanted[1]) or zone.inside_far_mm >= wanted[1])
    slowest = min(held, frozen)

    def shutter(iso: float) -> float:
        metered = shutter_for(asked.ev, stop, iso, asked.filter_stops, m)
        return metered if asked.exponent is None else long_exposure(metered, asked.exponent)

    iso = asked.iso
    if asked.iso_free and shutter(iso) > slowest:
        iso = min(asked.iso * shutter(asked.iso) / slowest, asked.most_iso)
    seconds = shutter(iso)
    short = max(math.log2(seconds / slowest), 0.0) if math.isfinite(slowest) else 0.0
    breaks = Breaks.NOTHING
    if short > _FULL_MARK:
        breaks = Breaks.MOVEMENT if frozen <= held else Breaks.SHAKE
    elif seconds < FASTEST_S / 1.5:
        breaks = Breaks.BRIGHT
    elif not holds:
        breaks = Breaks.ZONE
    return StopChoice(
        stop=stop,
        near_mm=zone.near_mm,
        far_mm=zone.far_mm,
        holds=holds,
        shutter_s=seconds,
        iso=iso,
        slowest_s=slowest,
        blur_mm=moves * seconds,
        breaks=breaks,
        short_stops=short if short > _FULL_MARK else 0.0,
    )


def _ways_out(
    setup: Setup, wanted: StopChoice, rows: tuple[StopChoice, ...], asked: Circumstances, frozen: float
) -> list[GiveUp]:
    """Return the ways out of a light that does not do: those that are enough first, the lightest first among them."""
    short = wanted.short_stops
    ways = _zone_ways(rows)
    if wanted.breaks is Breaks.BRIGHT:
        over = math.log2(FASTEST_S / wanted.shutter_s)
        ways.append(_way("A neutral filter", f"{math.ceil(over)} stops of it to carry", over, 1))
    if short > 0:
        ways += _light_ways(setup, wanted, rows, asked)
        if wanted.breaks is Breaks.SHAKE and frozen > wanted.shutter_s:
            ways.append(_way("A tripod, or lean on something", "it has to be there", short, 1))
        if wanted.breaks is Breaks.MOVEMENT:
            ways.append(_way("Wait for a still moment, or pan with it", "most frames", 0, 5, enough=False))
    return sorted(ways, key=lambda way: (not way.enough, way.burden))


def _way(
    what: str, cost: str, helps: float, burden: int, *, enough: bool = True, left: StopChoice | None = None
) -> GiveUp:
    return GiveUp(what=what, cost=cost, helps_stops=helps, enough=enough, burden=burden, left=left)


def _zone_ways(rows: tuple[StopChoice, ...]) -> list[GiveUp]:
    if any(row.holds for row in rows):
        return []
    return [_way("Two zones instead of one", "a turn of the ring between them", 0, 1, enough=False)]


def _light_ways(setup: Setup, wanted: StopChoice, rows: tuple[StopChoice, ...], asked: Circumstances) -> list[GiveUp]:
    """Return the ways that bring light: wider, faster, pushed, lit, or the plane placed."""
    short, widest = wanted.short_stops, rows[0]
    ways = []
    opened = next((row for row in reversed(rows) if row.stop < wanted.stop and row.short_stops == 0), None)
    if opened is not None:
        gain = 2 * math.log2(wanted.stop / opened.stop)
        ways.append(_way(f"Open up to {format_stop(opened.stop)}", "", gain, 2, left=opened))
    if setup.body.is_film:
        push = min(math.ceil(short - _FULL_MARK), MOST_PUSH)
        enough = push >= short - _FULL_MARK
        plural = "s" if push > 1 else ""
        cost = "the whole roll; shadows go black, grain grows"
        ways.append(_way(f"Push the film by {push:g} stop{plural}", cost, push, 3, enough=enough))
    else:
        iso = marked_iso(asked.most_iso * 2**short)
        ways.append(_way(f"ISO {iso:.0f}", "noise, more than you said you would take", short, 3))
    if wanted.near_mm < FLASH_REACH_MM:
        ways.append(_way("Flash", "its own hard light, and everyone knows", short, 4))
    if widest.stop < wanted.stop:
        gain = 2 * math.log2(wanted.stop / widest.stop)
        what = f"Place the plane at {format_stop(widest.stop)} instead of setting a zone"
        cost = "time for every frame, and only one thing sharp"
        ways.append(_way(what, cost, gain, 5, enough=widest.short_stops == 0, left=widest))
    return ways
