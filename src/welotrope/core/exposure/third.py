"""Two of stop, shutter time and ISO are fixed: the third, in one light and in every light by name."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from welotrope.core.errors import ConflictError
from welotrope.core.exposure.light import BRIGHTEST_FIRST, check_ev, check_iso, shutter_for
from welotrope.core.exposure.shutter_dial import ShutterDial, marked_iso
from welotrope.core.units.exposure import check_stop, count_stops, format_exposure, format_stop, snap_stop

_HALF_STOP = 0.5


class Solved(StrEnum):
    """Which of the three is worked out."""

    STOP = "stop"
    SHUTTER = "shutter time"
    ISO = "ISO"


@dataclass(frozen=True, kw_only=True)
class FixedTwo:
    """What is fixed of an exposure, None for what is not: f-number, shutter time in s, ISO; filter in stops.

    Raises
    ------
    ConflictError
        When not just two of them are given.
    """

    stop: float | None = None
    shutter_s: float | None = None
    iso: float | None = None
    filter_stops: float = 0.0

    def __post_init__(self) -> None:
        given = [value for value in (self.stop, self.shutter_s, self.iso) if value is not None]
        if len(given) != 2:
            raise ConflictError(
                "fixed exposure", f"{len(given)} of stop, shutter time and ISO", "the third is worked out from two",
                "Fill in two of the three, such as 1/250 and f/11",
            )  # fmt: skip

    @property
    def solved(self) -> Solved:
        """Which of the three is left."""
        return Solved.STOP if self.stop is None else Solved.SHUTTER if self.shutter_s is None else Solved.ISO


@dataclass(frozen=True, kw_only=True)
class Bounds:
    """What lens, shutter and the photographer allow: marked stops, shutter, lowest and highest ISO."""

    stops: Sequence[float]
    dial: ShutterDial
    least_iso: float
    most_iso: float


@dataclass(frozen=True, kw_only=True)
class ThirdValue:
    """The third in one light: its name and EV, the exact value, it in words as marked, and what is wrong with it."""

    name: str
    ev: float
    exact: float
    text: str
    problem: str = ""


def third_value(ev: float, fixed: FixedTwo) -> float:
    """Return the third of stop, shutter time (s) and ISO that exposes a scene of ``ev`` at ISO 100.

    Parameters
    ----------
    ev
        Exposure value at ISO 100, −10 to 20.
    fixed
        The two that are fixed of f-number, shutter time (s) and ISO.

    Raises
    ------
    OutOfRangeError
        When a value is out of range.

    Examples
    --------
    >>> round(third_value(12, FixedTwo(stop=8, shutter_s=1 / 256)))
    400
    """
    light = check_ev(ev) - fixed.filter_stops
    if fixed.shutter_s is None:
        return shutter_for(ev, fixed.stop or 1.0, fixed.iso or 100.0, filter_stops=fixed.filter_stops)
    if fixed.iso is None:
        return check_stop(fixed.stop or 1.0) ** 2 * 100 / (fixed.shutter_s * 2**light)
    return math.sqrt(fixed.shutter_s * 2**light * check_iso(fixed.iso) / 100)


def third_in(name: str, ev: float, fixed: FixedTwo, bounds: Bounds) -> ThirdValue:
    """Return the third in one light as it is marked, and whether lens, shutter and ISO allow it.

    Parameters
    ----------
    name
        Name of the light.
    ev
        Exposure value at ISO 100, −10 to 20.
    fixed
        The two that are fixed of f-number, shutter time (s) and ISO.
    bounds
        What lens, shutter and sensitivity allow.
    """
    exact = third_value(ev, fixed)
    found = ThirdValue(name=name, ev=ev, exact=exact, text="")
    if fixed.solved is Solved.SHUTTER:
        return _shutter(found, bounds)
    return _stop(found, bounds) if fixed.solved is Solved.STOP else _iso(found, bounds)


def third_rows(fixed: FixedTwo, bounds: Bounds) -> tuple[ThirdValue, ...]:
    """Return the third in every light by name, the brightest first.

    Parameters
    ----------
    fixed
        The two that are fixed of f-number, shutter time (s) and ISO.
    bounds
        What lens, shutter and sensitivity allow.
    """
    return tuple(third_in(one.name, one.ev, fixed, bounds) for one in BRIGHTEST_FIRST)


def _shutter(found: ThirdValue, bounds: Bounds) -> ThirdValue:
    marked = bounds.dial.nearest(found.exact)
    if marked is None:
        over = bounds.dial.stops_too_bright(found.exact)
        return replace(found, text="none", problem=f"too bright: a filter of {count_stops(over)}")
    by_hand = marked > bounds.dial.slowest_s
    return replace(found, text=format_exposure(marked), problem="on B, timed by hand" if by_hand else "")


def _stop(found: ThirdValue, bounds: Bounds) -> ThirdValue:
    widest, smallest = min(bounds.stops), max(bounds.stops)
    over, under = (2 * math.log2(found.exact / end) for end in (smallest, widest))
    if over > _HALF_STOP:
        return replace(found, text="none", problem=f"too bright: a filter of {_stops(over)}")
    if under < -_HALF_STOP:
        return replace(found, text="none", problem=f"{_stops(-under)} too dark at {format_stop(widest)}")
    return replace(found, text=format_stop(snap_stop(found.exact, tuple(bounds.stops))))


def _iso(found: ThirdValue, bounds: Bounds) -> ThirdValue:
    text = f"ISO {marked_iso(found.exact):.0f}"
    under = math.log2(found.exact / bounds.most_iso)
    if under > _HALF_STOP / 2:
        return replace(found, text=text, problem=f"{_stops(under)} too dark at ISO {bounds.most_iso:.0f}")
    over = math.log2(bounds.least_iso / found.exact)
    if over > _HALF_STOP / 2:
        return replace(found, text=text, problem=f"too bright: a filter of {_stops(over)}")
    return replace(found, text=text)


def _stops(count: float) -> str:
    return count_stops(math.ceil(count - 1e-9))
