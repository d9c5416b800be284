"""How much light there is, and which shutter time it gives.

``EV = log2(N²/t) − log2(ISO/100)`` at the working stop (ISO 2720:1974). The named conditions follow the daylight rule,
f/16 at 1/ISO in full sun, and the usual tables below it.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from welotrope.core.errors import ConflictError, OutOfRangeError
from welotrope.core.optics.thin_lens import effective_stop
from welotrope.core.units.stops import check_stop

LEAST_EV, MOST_EV = -10.0, 20.0
LEAST_ISO, MOST_ISO = 1.0, 1_000_000.0
MOST_FILTER = 20.0
_CONTRADICTS = 1.5  # stops beyond what a light varies by
_SUNNY = math.log2(16**2 * 100)  # f/16 at 1/100 s


@dataclass(frozen=True, kw_only=True)
class LightCondition:
    """A kind of light by name: its exposure value at ISO 100 and how far real scenes lie to either side, stops."""

    id: str
    name: str
    ev: float
    half: float


CONDITIONS: tuple[LightCondition, ...] = tuple(
    LightCondition(id=id, name=name, ev=_SUNNY - below, half=half)
    for id, name, below, half in (
        ("sun", "full sun, hard shadows", 0, 0.5), ("haze", "hazy sun, soft shadows", 1, 0.5),
        ("bright_cloud", "bright cloud, no shadows", 2, 0.5), ("overcast", "overcast, or open shade", 3, 1),
        ("heavy", "heavy cloud, or under trees", 4.5, 1), ("sunset", "sunset, rain at dusk", 6, 1),
        ("dusk", "dusk, street lamps lit", 9, 1), ("window", "a room by its window", 6.5, 1.5),
        ("indoors", "a well lit room or shed", 8, 1), ("evening", "a living room at night", 9.5, 1),
        ("street_night", "a lit street at night", 10.5, 1.5), ("candle", "by candles", 11.5, 1.5),
        ("full_moon", "full moon on land", 17, 0.7), ("starlight", "starlight, no moon", 20.5, 1),
    )
)  # fmt: skip
BY_ID = {condition.id: condition for condition in CONDITIONS}
BRIGHTEST_FIRST: tuple[LightCondition, ...] = tuple(sorted(CONDITIONS, key=lambda one: -one.ev))


def check_ev(ev: float) -> float:
    """Return an exposure value at ISO 100 when it lies in −10 to 20, else raise OutOfRangeError."""
    if not LEAST_EV <= ev <= MOST_EV:
        raise OutOfRangeError(
            "exposure value", f"EV {ev:g}", "no scene is that bright or dark",
            f"Write {LEAST_EV:g} to {MOST_EV:g} at ISO 100; full sun is 14.6",
        )  # fmt: skip
    return ev


def check_iso(iso: float) -> float:
    """Return a sensitivity when it lies in ISO 1 to 1 000 000, else raise OutOfRangeError."""
    if not LEAST_ISO <= iso <= MOST_ISO:
        raise OutOfRangeError("ISO", f"{iso:g}", "no film or sensor is that fast or slow", "Write 1 to 1000000")
    return iso


def shutter_for(ev: float, stop: float, iso: float, *, filter_stops: float = 0.0, m: float = 0.0) -> float:
    """Return the shutter time, s, that exposes a scene of ``ev`` (at ISO 100).

    Parameters
    ----------
    ev
        −10 to 20.
    stop, iso
        Marked f-number and ISO.
    filter_stops
        What a filter swallows, stops (0 to 20).
    m
        Magnification; the working stop is ``N(1 + m)``.

    Raises
    ------
    OutOfRangeError
        When one of them is out of range.

    Examples
    --------
    >>> 1 / shutter_for(12, 8, 400)
    256.0
    """
    if not 0 <= filter_stops <= MOST_FILTER:
        raise OutOfRangeError(
            "filter", f"{filter_stops:g} stops", "no filter takes that", f"Write 0 to {MOST_FILTER:g} stops"
        )
    if not 0 <= m <= 100:
        raise OutOfRangeError("magnification", f"{m:g}", "out of range", "Write 0 to 100, such as 0.5")
    working = effective_stop(check_stop(stop), m)
    return float(working**2 * 100 / (check_iso(iso) * 2 ** (check_ev(ev) - filter_stops)))


def ev_of_reading(shutter_s: float, stop: float, iso: float) -> float:
    """Return the exposure value at ISO 100 of what a meter reads: shutter time in s, f-number, ISO.

    Examples
    --------
    >>> round(ev_of_reading(1 / 256, 8, 400), 6)
    12.0
    """
    return check_ev(math.log2(check_stop(stop) ** 2 / shutter_s) - math.log2(check_iso(iso) / 100))


def agreed_light(named: LightCondition, reading_ev: float) -> float:
    """Return the exposure value of a reading where it agrees with a light by name.

    Both at ISO 100; they agree within what such light varies by and a stop and a half.

    Raises
    ------
    ConflictError
        When they contradict each other; it says which light the reading is like.

    Examples
    --------
    >>> agreed_light(BY_ID["overcast"], 11.0)
    11.0
    """
    if abs(reading_ev - named.ev) > named.half + _CONTRADICTS:
        like = min(CONDITIONS, key=lambda one: abs(one.ev - reading_ev))
        raise ConflictError(
            "reading", f"EV {reading_ev:.1f}", f"that contradicts “{named.name}” (EV {named.ev:.0f})",
            f"It reads like “{like.name}”: choose that or “as metered”, or leave the reading empty",
        )  # fmt: skip
    return reading_ev
