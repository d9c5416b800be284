"""How much light there is, which shutter time it gives at each stop, and what film does with it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from welotrope.core.errors import ConflictError, OutOfRangeError
from welotrope.core.exposure.shutter_dial import ShutterDial
from welotrope.core.optics.thin_lens import effective_stop
from welotrope.core.units.exposure import check_stop, count_stops, format_exposure, format_stop

LEAST_EV, MOST_EV = -10.0, 20.0
LEAST_ISO, MOST_ISO = 1.0, 1_000_000.0
MOST_FILTER = 20.0
_CONTRADICTS = 1.5  # stops beyond what a light varies by
_SUNNY = math.log2(16**2 * 100)  # f/16 at 1/100 s
LEAST_EXPONENT, MOST_EXPONENT = 1.0, 2.0
USUAL_ISOS: tuple[float, ...] = (25, 50, 100, 200, 400, 800, 1600, 3200, 6400)


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
    """Return an exposure value at ISO 100 when it lies in −10 to 20, else raise OutOfRangeError.

    Parameters
    ----------
    ev
        Exposure value at ISO 100, −10 to 20.
    """
    if not LEAST_EV <= ev <= MOST_EV:
        raise OutOfRangeError(
            "exposure value", f"EV {ev:g}", "no scene is that bright or dark",
            f"Write {LEAST_EV:g} to {MOST_EV:g} at ISO 100; full sun is 14.6",
        )  # fmt: skip
    return ev


def check_iso(iso: float) -> float:
    """Return a sensitivity when it lies in ISO 1 to 1 000 000, else raise OutOfRangeError.

    Parameters
    ----------
    iso
        Sensitivity, ISO 1 to 1 000 000.
    """
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

    Parameters
    ----------
    shutter_s
        Shutter time in s.
    stop
        F-number, 0.5 to 128.
    iso
        Sensitivity, ISO 1 to 1 000 000.

    Examples
    --------
    >>> round(ev_of_reading(1 / 256, 8, 400), 6)
    12.0
    """
    return check_ev(math.log2(check_stop(stop) ** 2 / shutter_s) - math.log2(check_iso(iso) / 100))


def agreed_light(named: LightCondition, reading_ev: float) -> float:
    """Return the exposure value of a reading where it agrees with a light by name.

    Both at ISO 100; they agree within what such light varies by and a stop and a half.

    Parameters
    ----------
    named
        The light by name.
    reading_ev
        Exposure value at ISO 100 that was read.

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


def check_exponent(exponent: float) -> float:
    """Return a reciprocity exponent when it lies in 1 to 2, else raise OutOfRangeError.

    Parameters
    ----------
    exponent
        Reciprocity exponent of the film, 1 to 2, a pure number.
    """
    if not LEAST_EXPONENT <= exponent <= MOST_EXPONENT:
        raise OutOfRangeError(
            "reciprocity exponent", f"{exponent:g}", "no film sheet gives that",
            "Write the exponent of the film’s data sheet, 1 to 2, or leave it empty",
        )  # fmt: skip
    return exponent


def long_exposure(metered_s: float, exponent: float) -> float:
    """Return the time film needs, s: ``t^p`` beyond one second, with ``p`` from the film's data sheet.

    Parameters
    ----------
    metered_s
        Metered time in s.
    exponent
        Reciprocity exponent of the film, 1 to 2, a pure number.

    Examples
    --------
    >>> round(long_exposure(10, 1.3), 2), long_exposure(0.5, 1.3)
    (19.95, 0.5)
    """
    return metered_s if metered_s <= 1 else float(metered_s ** check_exponent(exponent))


def metered_for(exposed_s: float, exponent: float) -> float:
    """Return the metered time, s, that makes film need ``exposed_s``: the way back of :func:`long_exposure`.

    Parameters
    ----------
    exposed_s
        Time in s that the film is exposed.
    exponent
        Reciprocity exponent of the film, 1 to 2, a pure number.

    Examples
    --------
    >>> round(metered_for(long_exposure(10, 1.3), 1.3), 9)
    10.0
    """
    return exposed_s if exposed_s <= 1 else float(exposed_s ** (1 / check_exponent(exponent)))


@dataclass(frozen=True, kw_only=True)
class LightCell:
    """The shutter time that a light gives at a stop.

    Parameters
    ----------
    shutter_s
        On the body's dial, s; None where the light is too bright for its fastest.
    by_hand
        Whether it is longer than the slowest mark and is timed by hand.
    over_stops
        By how many stops it is too bright, rounded up: what a filter must take; 0 when it is not.
    from_stop
        The widest stop of the table that the shutter can follow; None where none is.
    """

    shutter_s: float | None
    by_hand: bool = False
    over_stops: int = 0
    from_stop: float | None = None

    @property
    def text(self) -> str:
        """It in words: “1/250 s”, “2 min (B)”, or what to do where it is too bright."""
        if self.shutter_s is not None:
            return format_exposure(self.shutter_s) + (" (B)" if self.by_hand else "")
        stop = f"{format_stop(self.from_stop)}, or " if self.from_stop is not None else ""
        return f"too bright: {stop}a filter of {count_stops(self.over_stops)}"

    @property
    def short_text(self) -> str:
        """It for a narrow column: the time, or by how many stops it is too bright."""
        return self.text if self.shutter_s is not None else f"−{self.over_stops} st."


@dataclass(frozen=True, kw_only=True)
class LightRow:
    """A light by name, its exposure value at ISO 100, and a cell for each stop of the table."""

    name: str
    ev: float
    cells: tuple[LightCell, ...]


def light_table(stops: Sequence[float], iso: float, dial: ShutterDial) -> tuple[LightRow, ...]:
    """Return the table for marked stops, an ISO and a shutter, the brightest light first; errors as ``shutter_for``.

    Parameters
    ----------
    stops
        Marked f-numbers.
    iso
        Sensitivity, ISO 1 to 1 000 000.
    dial
        Shutter times of the body, in s.

    Examples
    --------
    >>> [cell.text for cell in light_table((1.4, 8, 16), 400, ShutterDial(1 / 2000, 1))[0].cells]
    ['too bright: f/8, or a filter of 5 stops', '1/2000 s', '1/500 s']
    """
    return tuple(
        LightRow(name=one.name, ev=one.ev, cells=tuple(_cell(one.ev, stop, stops, iso, dial) for stop in stops))
        for one in BRIGHTEST_FIRST
    )


def _cell(ev: float, stop: float, stops: Sequence[float], iso: float, dial: ShutterDial) -> LightCell:
    needed = shutter_for(ev, stop, iso)
    marked = dial.nearest(needed)
    if marked is not None:
        return LightCell(shutter_s=marked, by_hand=marked > dial.slowest_s)
    follows = (one for one in sorted(stops) if dial.nearest(shutter_for(ev, one, iso)) is not None)
    return LightCell(shutter_s=None, over_stops=dial.stops_too_bright(needed), from_stop=next(follows, None))
