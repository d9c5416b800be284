"""Which shutter time a light by name asks for, at the stops of a lens: a table to take along."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from welotrope.core.exposure.light import BRIGHTEST_FIRST, shutter_for
from welotrope.core.exposure.shutter_dial import ShutterDial
from welotrope.core.units.shutter import format_exposure
from welotrope.core.units.stops import count_stops, format_stop

USUAL_ISOS: tuple[float, ...] = (25, 50, 100, 200, 400, 800, 1600, 3200, 6400)


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
