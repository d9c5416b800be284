"""The shutter of a body: its own fastest and slowest marked time, or what bodies of its kind usually have."""

from __future__ import annotations

import math

from welotrope.core.exposure.shutter_dial import ShutterDial
from welotrope.core.kit.body import Body
from welotrope.core.kit.camera_kind import FinderKind
from welotrope.core.units.shutter import format_shutter

# Fastest and slowest marked times, s, as cameras of a kind mostly have them: on film, and with a sensor.
_USUAL_ON_FILM = {
    FinderKind.SLR: (1 / 1000, 1.0), FinderKind.RANGEFINDER: (1 / 1000, 1.0), FinderKind.ZONE: (1 / 250, 1.0),
}  # fmt: skip
_USUAL_WITH_SENSOR = {FinderKind.REAR_SCREEN: (1 / 2000, 15.0)}
_FILM, _SENSOR = (1 / 1000, 1.0), (1 / 4000, 30.0)


def usual_shutter(finder: FinderKind, *, film: bool) -> ShutterDial:
    """Return the shutter that bodies with such a finder usually have, its marked times in s."""
    usual = _USUAL_ON_FILM.get(finder, _FILM) if film else _USUAL_WITH_SENSOR.get(finder, _SENSOR)
    return ShutterDial(*usual)


def shutter_of(body: Body) -> ShutterDial:
    """Return the shutter of a body, times in s: what is known of it, the rest as usual for its kind."""
    traits, own = body.traits, body.kind.shutter_s
    usual = ShutterDial(*own) if own else usual_shutter(traits.finder, film=body.is_film)
    fastest = usual.fastest_s if traits.fastest_s is None else traits.fastest_s
    slowest = usual.slowest_s if traits.slowest_s is None else traits.slowest_s
    return ShutterDial(fastest, max(slowest, fastest * 2))


def longest_words(dial: ShutterDial, seconds: float) -> str:
    """Write the longest time of a shutter that is no longer than ``seconds``; any time may do, or none the body has.

    Examples
    --------
    >>> dial = ShutterDial(1 / 1000, 1.0)
    >>> longest_words(dial, 1 / 430), longest_words(dial, 1 / 2100), longest_words(dial, math.inf)
    ('1/500 s', 'faster than 1/1000 s, the fastest of this body', 'any')
    """
    if math.isinf(seconds):
        return "any"
    if seconds < dial.fastest_s:
        return f"faster than {format_shutter(dial.fastest_s)}, the fastest of this body"
    return format_shutter(dial.no_longer_than(seconds))


def shutter_words(body: Body) -> str:
    """Say which fastest time is reckoned with, and whether it is the body's own."""
    fastest = format_shutter(shutter_of(body).fastest_s)
    if body.traits.fastest_s is not None:
        return f"Fastest shutter speed: {fastest}."
    return f"Fastest shutter speed taken as {fastest}, the usual for this kind of camera. Enter yours in Kit."
