"""Whether the light affords a stop: shutter, ISO, movement, shake; what fails, what to give up.

Times, ISO and counts of stops are those marked on the camera, so that what is shown adds up.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from welotrope.core.exposure.light import long_exposure, shutter_for
from welotrope.core.exposure.motion import Holding, image_speed, slowest_held, slowest_shutter
from welotrope.core.exposure.shutter_dial import ShutterDial, marked_iso, shorter_marked
from welotrope.core.kit.body import Body, shutter_of
from welotrope.core.kit.setup import Setup
from welotrope.core.optics.thin_lens import magnification
from welotrope.core.plan.setting import RingSetting, ring_setting
from welotrope.core.plan.zone import plan_film_zone
from welotrope.core.units.exposure import count_stops, format_stop

USUAL_MOST_ISO = 6400.0
THIRD_STOP = 2 ** (1 / 3)  # what a shutter may be too slow by, as nobody sees it
FLASH_REACH_MM = 6000.0
MOST_PUSH = 3.0


class Breaks(StrEnum):
    """What keeps a stop from working."""

    BRIGHT = "too bright for the shutter"
    MOVEMENT = "the subject blurs"
    SHAKE = "the hand shakes"
    ZONE = "not enough depth of field"


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
    setting
        The ring with the plane of the plan in focus at this stop: its zone, and where the index stands.
    holds
        Whether it holds what is wanted.
    shutter_s
        As marked on the dial, reciprocity counted in; None where the light is too bright for its fastest.
    iso
        Used: as low as the slowest usable shutter lets it be.
    slowest_s
        Longest marked time that movement and hand allow, to a third of a stop; infinite when neither moves.
    blur_mm
        How far the image of the subject moves in the time shown, mm.
    fails
        What keeps it from working, the gravest first; empty when it works.
    short_stops
        By how many stops the light falls short, between the times shown; 0 when it does not.
    over_stops
        By how many stops the light is too much for the fastest shutter time, rounded up.
    """

    setting: RingSetting
    holds: bool
    shutter_s: float | None
    iso: float
    slowest_s: float
    blur_mm: float
    fails: tuple[Breaks, ...]
    short_stops: float
    over_stops: int

    @property
    def stop(self) -> float:
        """The marked stop."""
        return self.setting.stop

    @property
    def works(self) -> bool:
        """Whether nothing keeps it from working."""
        return not self.fails

    @property
    def exposes(self) -> bool:
        """Whether shutter, movement and hand allow it, whatever it holds."""
        return not set(self.fails) - {Breaks.ZONE}

    @property
    def fails_words(self) -> str:
        """What keeps it from working, in words; empty when it works."""
        return " and ".join(one.value for one in self.fails)


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
    """The stops in this light with one plane in focus, the one to use, and ways out when none does.

    ``best`` works, or comes nearest to it; ``wanted`` is the widest that holds the zone, or the smallest there is.
    ``from_stop`` is the widest that the shutter can follow, None when none is; ``moves_mm_per_s`` how fast the image of
    the subject moves at the near end, where it moves fastest.
    """

    rows: tuple[StopChoice, ...]
    best: StopChoice
    wanted: StopChoice
    from_stop: float | None
    moves_mm_per_s: float
    held_s: float
    frozen_s: float
    ways_out: tuple[GiveUp, ...]


@dataclass(frozen=True, kw_only=True)
class _Exposing:
    """What the choice of every stop draws on: extension of the plane, magnification there, limits of time, s."""

    setup: Setup
    asked: Circumstances
    dial: ShutterDial
    x: float
    m: float
    moves: float
    held: float
    frozen: float

    @property
    def allowed_s(self) -> float:
        """Longest marked time that hand and subject allow, to a third of a stop."""
        allowed = min(self.held, self.frozen) * THIRD_STOP
        return shorter_marked(allowed) if allowed < self.dial.fastest_s else self.dial.no_longer_than(allowed)

    def metered(self, stop: float, iso: float) -> float:
        """Time that exposes at a stop and ISO, s, reciprocity counted in."""
        time = shutter_for(self.asked.ev, stop, iso, filter_stops=self.asked.filter_stops, m=self.m)
        return time if self.asked.exponent is None else long_exposure(time, self.asked.exponent)

    def exposed(self, stop: float) -> tuple[float | None, float]:
        """Return the marked time, s (None where it is too bright), and the ISO at a stop."""
        asked, dial, allowed = self.asked, self.dial, self.allowed_s
        needed = self.metered(stop, asked.iso)
        marked = dial.nearest(needed)
        if marked is None or not asked.iso_free or marked <= allowed:
            return marked, asked.iso
        iso = asked.iso * needed / max(allowed, dial.fastest_s)
        if iso <= asked.most_iso * THIRD_STOP:
            return max(allowed, dial.fastest_s), min(marked_iso(iso), asked.most_iso)
        return dial.nearest(self.metered(stop, asked.most_iso)), asked.most_iso


def plan_light(setup: Setup, near_mm: float, far_mm: float, asked: Circumstances) -> LightPlan:
    """Plan the exposure of a zone between two distances, mm from the film plane, one of which may be both.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    near_mm
        Nearest distance in mm.
    far_mm
        Farthest distance in mm; infinity allowed.
    asked
        How the camera is held and what is before it.

    Raises
    ------
    ConflictError, OutOfRangeError, TooCloseError
        When the zone cannot be focused or a value is out of range.
    """
    ring, asked = setup.ring(), asked.on(setup.body)
    ring.check_near(near_mm, field="near")
    low, high = ring.travel_x
    x = min(max(_focus(setup, near_mm, far_mm), low), high)
    moves = _image_speed(setup, x, near_mm, asked)
    exposing = _Exposing(
        setup=setup, asked=asked, dial=shutter_of(setup.body), x=x,
        m=float(magnification(max(x, 0.0), ring.focal_mm)), moves=moves,
        held=slowest_held(ring.focal_mm, setup.body.image, setup.blur_mm, asked.holding, own_factor=asked.steady),
        frozen=slowest_shutter(moves, setup.blur_mm),
    )  # fmt: skip
    rows = tuple(_choice(exposing, stop, near_mm, far_mm) for stop in sorted(setup.lens.stops))
    working = [row for row in rows if row.works]
    wanted = next((row for row in rows if row.holds), rows[-1])
    best = working[0] if working else min(rows, key=_how_far_from_working)
    return LightPlan(
        rows=rows, best=best, wanted=wanted,
        from_stop=next((row.stop for row in rows if row.shutter_s is not None), None), moves_mm_per_s=moves,
        held_s=exposing.held, frozen_s=exposing.frozen,
        ways_out=() if working else tuple(_ways_out(setup, wanted, rows, asked, exposing.frozen)),
    )  # fmt: skip


def _how_far_from_working(row: StopChoice) -> tuple[float, int, bool, float]:
    return row.short_stops, row.over_stops, not row.holds, -row.stop


def _focus(setup: Setup, near_mm: float, far_mm: float) -> float:
    """Extension that blurs both ends alike, mm."""
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


def _image_speed(setup: Setup, x: float, distance_mm: float, asked: Circumstances) -> float:
    """How fast the image of something at a distance moves, mm/s, with the lens standing at an extension."""
    ring = setup.ring()
    v = ring.focal_mm + x
    object_mm = max(distance_mm - v - ring.h_mm, ring.focal_mm)
    return image_speed(v / object_mm, object_mm, asked.speed, asked.angle_deg)


def _choice(exposing: _Exposing, stop: float, near_mm: float, far_mm: float) -> StopChoice:
    setup, dial = exposing.setup, exposing.dial
    ring = setup.ring(stop)
    setting = ring_setting(setup, ring.clamp(float(ring.angle_at_extension(exposing.x))), stop)
    zone = setting.zone
    holds = zone.contains(near_mm) and (zone.contains(far_mm) or zone.inside_far_mm >= far_mm)
    allowed, (shutter, iso) = exposing.allowed_s, exposing.exposed(stop)
    time = dial.fastest_s if shutter is None else shutter
    # On the dial a step is a stop, whatever its engraved figures divide to.
    short = 0.0 if math.isinf(allowed) else max(round(math.log2(time / allowed)), 0)
    over = 0 if shutter is not None else dial.stops_too_bright(exposing.metered(stop, iso))
    checks = (
        (Breaks.BRIGHT, over > 0), (Breaks.MOVEMENT, short > 0 and exposing.frozen <= exposing.held),
        (Breaks.SHAKE, short > 0 and exposing.frozen > exposing.held), (Breaks.ZONE, not holds),
    )  # fmt: skip
    return StopChoice(
        setting=setting, holds=holds, shutter_s=shutter, iso=iso, slowest_s=allowed, blur_mm=exposing.moves * time,
        fails=tuple(one for one, fails in checks if fails), short_stops=short, over_stops=over,
    )  # fmt: skip


def _ways_out(
    setup: Setup, wanted: StopChoice, rows: tuple[StopChoice, ...], asked: Circumstances, frozen: float
) -> list[GiveUp]:
    """Return the ways out of a light that does not do: those that are enough first, the lightest first among them."""
    short = wanted.short_stops
    ways = _zone_ways(rows)
    if Breaks.BRIGHT in wanted.fails:
        over = wanted.over_stops
        ways.append(_way(f"A neutral filter of {count_stops(over)}", "one more thing to carry", over, 1))
    if short > 0:
        ways += _light_ways(setup, wanted, rows, asked)
        if Breaks.SHAKE in wanted.fails and frozen > (wanted.shutter_s or 0.0):
            ways.append(_way("A tripod, or lean on something", "it has to be there", short, 1))
        if Breaks.MOVEMENT in wanted.fails:
            ways.append(_way("Wait for a still moment, or pan with it", "most frames", 0, 5, enough=False))
    return sorted(ways, key=lambda way: (not way.enough, way.burden))


def _way(
    what: str, cost: str, helps: float, burden: int, *, enough: bool = True, left: StopChoice | None = None
) -> GiveUp:
    return GiveUp(what=what, cost=cost, helps_stops=helps, enough=enough, burden=burden, left=left)


def _zone_ways(rows: tuple[StopChoice, ...]) -> list[GiveUp]:
    if any(row.holds for row in rows):
        return []
    return [_way("Two zones instead of one", "the distance set anew between them", 0, 1, enough=False)]


def _light_ways(setup: Setup, wanted: StopChoice, rows: Sequence[StopChoice], asked: Circumstances) -> list[GiveUp]:
    """Return the ways that bring light: wider, faster, pushed, lit, or the plane placed."""
    short, widest = wanted.short_stops, rows[0]
    ways = []
    opened = next((row for row in reversed(rows) if row.stop < wanted.stop and row.exposes), None)
    if opened is not None:
        gain = round(2 * math.log2(wanted.stop / opened.stop))
        ways.append(_way(f"Open up to {format_stop(opened.stop)}", "", gain, 2, left=opened))
    if setup.body.is_film:
        push = min(short, MOST_PUSH)
        cost = "the whole roll; shadows go black, grain grows"
        ways.append(_way(f"Push the film by {count_stops(push)}", cost, push, 3, enough=push >= short))
    else:
        iso = marked_iso(asked.most_iso * 2**short)
        ways.append(_way(f"ISO {iso:.0f}", "noise, more than you said you would take", short, 3))
    if wanted.setting.near_mm < FLASH_REACH_MM:
        ways.append(_way(f"Flash for the missing {count_stops(short)}",
                         "hard light, and you are noticed", short, 4))  # fmt: skip
    if widest.stop < wanted.stop:
        gain = round(2 * math.log2(wanted.stop / widest.stop))
        what = f"Place the plane at {format_stop(widest.stop)} instead of setting a zone"
        cost = "time for every frame, and only one thing sharp"
        ways.append(_way(what, cost, gain, 5, enough=widest.exposes, left=widest))
    return ways
