"""A moving subject: the trap on this ring, the next stations nearer in, and when to press, given one’s reaction."""

from __future__ import annotations

import statistics
from collections.abc import Sequence
from dataclasses import dataclass

from welotrope.core.errors import OutOfRangeError
from welotrope.core.exposure.motion import image_speed, slowest_shutter
from welotrope.core.kit.aids.models import Eye
from welotrope.core.kit.setup import Setup
from welotrope.core.optics.thin_lens import magnification
from welotrope.core.plan.setting import RingSetting, angle_with_far_limit, ring_setting
from welotrope.core.plan.trap import Trap, TrapChances, TrapHand, trap_chances
from welotrope.core.ring.window import sharp_window
from welotrope.core.units.text import number

LEAST_PRESSES, MOST_PRESSES = 5, 100
EARLIEST_S, LATEST_S = 0.08, 1.5  # before that one guessed, after that one looked away
MOST_STATIONS = 5
_LEAST_MOVE_DEG = 0.2
_USUAL_RATE, _USUAL_LAG_S = 3.0, 0.1


@dataclass(frozen=True, kw_only=True)
class Reaction:
    """Median and spread of presses, s, and how many counted; the spread is that of a normal law."""

    median_s: float
    spread_s: float
    presses: int

    @property
    def constants(self) -> dict[str, float]:
        """The constants it gives, by id; s, and a pure number of presses."""
        return {
            "reaction": round(self.median_s, 4), "reaction_spread": round(self.spread_s, 4),
            "reaction_presses": float(self.presses),
        }  # fmt: skip


def reaction_of(presses_ms: Sequence[str]) -> Reaction:
    """Return the reaction behind presses, as texts in ms; those before 80 ms were guesses and do not count.

    The spread comes from the middle half of them, so that one moment of looking away does not stretch it.

    Parameters
    ----------
    presses_ms
        Times of the presses in ms, as typed.

    Raises
    ------
    OutOfRangeError
        When fewer than five count.

    Examples
    --------
    >>> found = reaction_of(["240", "250", "260", "255", "245"])
    >>> found.median_s, found.presses
    (0.25, 5)
    """
    seconds = [number(text, "press", unit="ms") / 1000 for text in presses_ms[:MOST_PRESSES]]
    counted = sorted(one for one in seconds if EARLIEST_S <= one <= LATEST_S)
    if len(counted) < LEAST_PRESSES:
        raise OutOfRangeError(
            "presses", f"{len(counted)} of {len(seconds)}", "too few count: the others came too early or late",
            "Press ten times, each time as it turns to brass",
        )  # fmt: skip
    low, _, high = statistics.quantiles(counted, n=4)
    spread = max((high - low) / 1.349, 0.005)
    return Reaction(median_s=statistics.median(counted), spread_s=spread, presses=len(counted))


@dataclass(frozen=True, kw_only=True)
class Station:
    """A place to trap at.

    Parameters
    ----------
    setting
        Ring and zone.
    trap
        Time and frames there, and where to press.
    turn_deg
        How far to turn the ring on from the station before; 0 for the first.
    seconds
        From leaving the zone before to pressing here; None for the first.
    """

    setting: RingSetting
    trap: Trap
    turn_deg: float
    seconds: float | None


@dataclass(frozen=True, kw_only=True)
class MovingPlan:
    """The stations, the first one's chances, the shutter that freezes the subject there, s, and how far ahead to press.

    ``ahead_mm`` is from the press to the plane.
    """

    stations: tuple[Station, ...]
    chances: TrapChances
    frozen_s: float
    ahead_mm: float

    @property
    def first(self) -> Station:
        """Where to begin."""
        return self.stations[0]


@dataclass(frozen=True, kw_only=True)
class MovingAsked:
    """What moves and how it is shot; distance in mm from the film plane, speed m/s, angle degrees, times s."""

    distance_mm: float
    stop: float
    speed: float
    angle_deg: float
    receding: bool
    rate: float
    lag_s: float
    hand: TrapHand
    burst_s: float
    turn_s: float


def hand_of(eye: Eye) -> TrapHand:
    """Return how the photographer presses, by the table of constants with what was measured put in.

    Parameters
    ----------
    eye
        Constants of the eye and of the aids; those of an average eye where none are given.
    """
    return TrapHand(
        reaction_s=eye["reaction"], spread_s=eye["reaction_spread"], presses=round(eye["reaction_presses"]),
        speed_share=eye["speed_guess"],
    )  # fmt: skip


def usual_moving(setup: Setup, eye: Eye, distance_mm: float, stop: float, speed: float) -> MovingAsked:
    """Return what is asked of something that comes straight at one, with what body and hand are known to do.

    Distance in mm from the film plane, speed in m/s.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    eye
        Constants of the eye and of the aids; those of an average eye where none are given.
    distance_mm
        Distance in mm; infinity allowed.
    stop
        F-number, 0.5 to 128.
    speed
        Speed in m/s, 0 to 400.
    """
    traits = setup.body.traits
    return MovingAsked(
        distance_mm=distance_mm, stop=stop, speed=speed, angle_deg=0.0, receding=False,
        rate=traits.burst_fps or _USUAL_RATE, lag_s=_USUAL_LAG_S if traits.shutter_lag_ms is None
        else traits.shutter_lag_ms / 1000, hand=hand_of(eye), burst_s=1.0, turn_s=eye["ring_turn"],
    )  # fmt: skip


def plan_moving(setup: Setup, asked: MovingAsked) -> MovingPlan:
    """Plan a trap and the stations after it.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    asked
        What was asked of the moving subject.

    Raises
    ------
    OutOfRangeError, TooCloseError
        When the ring does not reach the distance, the subject comes no nearer, or a value is out of range.
    """
    ring = setup.ring(setup.lens.check_has(asked.stop))
    ring.check_reach(asked.distance_mm, field="distance")
    angle = ring.clamp(float(ring.angle_at_distance(asked.distance_mm)))
    stations = [_station(setup, asked, angle, None)]
    while not asked.receding and len(stations) < MOST_STATIONS:
        following = _next(setup, asked, stations[-1])
        if following is None:
            break
        stations.append(following)
    first = stations[0]
    return MovingPlan(
        stations=tuple(stations), chances=trap_chances(first.trap, asked.hand, burst_s=asked.burst_s),
        frozen_s=_frozen(setup, first.setting, asked), ahead_mm=abs(first.trap.press_at_mm - first.setting.focus_mm),
    )  # fmt: skip


def _station(setup: Setup, asked: MovingAsked, angle: float, before: Station | None) -> Station:
    setting = ring_setting(setup, angle, asked.stop)
    window = sharp_window(setup.ring(asked.stop), angle, asked.stop, setup.blur_mm)
    trap = Trap(
        focus_mm=setting.focus_mm, near_mm=setting.near_mm, far_mm=setting.far_mm, speed=asked.speed,
        angle_deg=asked.angle_deg, receding=asked.receding, rate=asked.rate, reaction_s=asked.hand.reaction_s,
        lag_s=asked.lag_s, far_vergence=window.far_vergence,
    )  # fmt: skip
    if before is None:
        return Station(setting=setting, trap=trap, turn_deg=0.0, seconds=None)
    seconds = (before.setting.near_mm - trap.press_at_mm) / abs(trap.mm_per_s)
    return Station(setting=setting, trap=trap, turn_deg=angle - before.setting.angle_deg, seconds=seconds)


def _next(setup: Setup, asked: MovingAsked, before: Station) -> Station | None:
    """Return the next station nearer in: its press comes when the ring has been turned, its zone after that."""
    early = asked.hand.reaction_s + asked.lag_s
    press_mm = before.setting.near_mm - abs(before.trap.mm_per_s) * asked.turn_s
    plane = press_mm - abs(before.trap.mm_per_s) * early
    ring = setup.ring(asked.stop)
    if plane < ring.closest_mm:
        return None
    angle = ring.clamp(float(ring.angle_at_distance(plane)))
    beside = angle_with_far_limit(setup, before.setting.near_mm, asked.stop)
    chosen = max(angle, beside)
    if chosen - before.setting.angle_deg < _LEAST_MOVE_DEG or chosen >= ring.throw_deg:
        return None
    return _station(setup, asked, chosen, before)


def _frozen(setup: Setup, setting: RingSetting, asked: MovingAsked) -> float:
    ring = setup.ring(asked.stop)
    x = float(ring.extension_at_angle(setting.angle_deg))
    m = float(magnification(max(x, 0.0), ring.focal_mm))
    s = setting.focus_mm - ring.focal_mm - x - ring.h_mm
    return slowest_shutter(image_speed(m, s, asked.speed, asked.angle_deg), setup.blur_mm)
