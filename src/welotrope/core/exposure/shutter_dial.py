"""The shutter times engraved on dials: the usual rounded series of full steps, and those a body has."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

from welotrope.core import fields
from welotrope.core.errors import ConflictError
from welotrope.core.units.exposure import shutter_text

# ISO 516:2019 names these full steps from 60 s to 1/8000 s.
MARKED: tuple[float, ...] = (
    60, 30, 15, 8, 4, 2, 1, *(1 / n for n in (2, 4, 8, 15, 30, 60, 125, 250, 500, 1000, 2000, 4000, 8000)),
)  # fmt: skip
# The same series carried on, as electronic shutters have it.
_FASTER = (1 / 16000, 1 / 32000)
_HALF_STEP = math.sqrt(2)
_SAME = 1.05


def marked_shutter(seconds: float) -> float | None:
    """Return the engraved shutter time, s, that lies nearest in exposure; None half a step beyond the dial.

    Parameters
    ----------
    seconds
        Time in s.

    Examples
    --------
    >>> 1 / marked_shutter(1 / 256), marked_shutter(0.9), marked_shutter(1 / 32768)
    (250.0, 1, None)
    """
    if not MARKED[-1] / _HALF_STEP <= seconds <= MARKED[0] * _HALF_STEP:
        return None
    return min(MARKED, key=lambda one: abs(math.log2(one / seconds)))


def shorter_marked(seconds: float) -> float:
    """Return the longest engraved shutter time, s, that is no longer than this one.

    It is the time itself where no dial is as fast, and where any time would do.

    Parameters
    ----------
    seconds
        Time in s.

    Examples
    --------
    >>> 1 / shorter_marked(1 / 49), 1 / shorter_marked(1 / 10_000)
    (60.0, 10000.0)
    """
    return seconds if math.isinf(seconds) else max((one for one in MARKED if one <= seconds), default=seconds)


@dataclass(frozen=True)
class ShutterDial:
    """The shutter of a body: its fastest and slowest marked time, s.

    Raises
    ------
    ConflictError
        When the fastest is not faster than the slowest.
    """

    fastest_s: float
    slowest_s: float

    def __post_init__(self) -> None:
        if self.fastest_s >= self.slowest_s:
            raise ConflictError(
                fields.FASTEST, shutter_text(self.fastest_s), f"the slowest is {shutter_text(self.slowest_s)}",
                "Write a fastest time shorter than the slowest, such as 1/1000 and 1 s",
            )  # fmt: skip

    @cached_property
    def marks(self) -> tuple[float, ...]:
        """Its marked times, s, the slowest first: the usual series between its ends, and the ends."""
        inside = [one for one in (*MARKED, *_FASTER) if self.fastest_s * _SAME < one < self.slowest_s / _SAME]
        return (self.slowest_s, *inside, self.fastest_s)

    def nearest(self, seconds: float) -> float | None:
        """Return the marked time, s, nearest in exposure; None where even the fastest gives half a stop too much.

        Longer than the slowest mark the time itself is returned: it is timed by hand.

        Examples
        --------
        >>> dial = ShutterDial(1 / 1000, 1)
        >>> 1 / dial.nearest(1 / 900), dial.nearest(1 / 3000), dial.nearest(8)
        (1000.0, None, 8)
        """
        if seconds < self.fastest_s / _HALF_STEP:
            return None
        if seconds > self.slowest_s * _HALF_STEP:
            return seconds
        return min(self.marks, key=lambda one: abs(math.log2(one / seconds)))

    def no_longer_than(self, seconds: float) -> float:
        """Return the longest marked time, s, that is no longer than this one; beyond either end the time itself.

        Examples
        --------
        >>> 1 / ShutterDial(1 / 1000, 1).no_longer_than(1 / 430)
        500.0
        """
        if seconds > self.slowest_s:
            return seconds
        return max((one for one in self.marks if one <= seconds), default=seconds)

    def stops_too_bright(self, seconds: float) -> int:
        """Return by how many stops, rounded up, the light is too bright where ``seconds`` would be needed.

        Examples
        --------
        >>> ShutterDial(1 / 1000, 1).stops_too_bright(1 / 4096)
        3
        """
        return 0 if self.nearest(seconds) is not None else math.ceil(math.log2(self.fastest_s / seconds) - 1e-9)


_TENTHS = (1.0, 1.25, 1.6, 2.0, 2.5, 3.2, 4.0, 5.0, 6.4, 8.0)


def marked_iso(iso: float) -> float:
    """Return the ISO of the usual third-stop series, 100 125 160 200 …, that lies nearest to ``iso``.

    Parameters
    ----------
    iso
        Sensitivity, ISO 1 to 1 000 000.

    Examples
    --------
    >>> marked_iso(1692), marked_iso(410)
    (1600.0, 400.0)
    """
    power = 10.0 ** math.floor(math.log10(iso))
    series = [tenth * power * step for step in (1, 10) for tenth in _TENTHS]
    return min(series, key=lambda one: abs(math.log2(one / iso)))
