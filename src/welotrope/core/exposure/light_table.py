"""Which shutter time a light by name asks for, at the stops of a lens: a table to take along."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from welotrope.core.exposure.light import CONDITIONS, shutter_for
from welotrope.core.exposure.shutter_dial import marked_shutter

USUAL_ISOS: tuple[float, ...] = (25, 50, 100, 200, 400, 800, 1600, 3200, 6400)


@dataclass(frozen=True, kw_only=True)
class LightRow:
    """A light by name, its exposure value at ISO 100, and a marked shutter time, s, for each stop of the table."""

    name: str
    ev: float
    shutters_s: tuple[float, ...]


def light_table(stops: Sequence[float], iso: float) -> tuple[LightRow, ...]:
    """Return the table for marked stops and an ISO, the brightest light first; errors as ``light.shutter_for``.

    Examples
    --------
    >>> [round(1 / s) for s in light_table((8, 16), 100)[0].shutters_s]
    [500, 125]
    """
    brightest_first = sorted(CONDITIONS, key=lambda condition: -condition.ev)
    return tuple(
        LightRow(
            name=one.name, ev=one.ev,
            shutters_s=tuple(marked_shutter(shutter_for(one.ev, stop, iso)) for stop in stops),
        )
        for one in brightest_first
    )  # fmt: skip
