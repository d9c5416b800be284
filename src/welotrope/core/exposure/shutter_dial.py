"""The shutter times engraved on dials: the usual rounded series of full steps."""

from __future__ import annotations

import math

# ISO 516:2019 names these full steps from 60 s to 1/8000 s.
MARKED: tuple[float, ...] = (
    60, 30, 15, 8, 4, 2, 1, *(1 / n for n in (2, 4, 8, 15, 30, 60, 125, 250, 500, 1000, 2000, 4000, 8000)),
)  # fmt: skip


def marked_shutter(seconds: float) -> float:
    """Return the engraved shutter time, s, that lies nearest in exposure; beyond the dial the time itself.

    Examples
    --------
    >>> 1 / marked_shutter(1 / 256), marked_shutter(0.9)
    (250.0, 1)
    """
    if seconds > MARKED[0] * math.sqrt(2):
        return seconds
    return min(MARKED, key=lambda one: abs(math.log2(one / seconds)))


def shorter_marked(seconds: float) -> float:
    """Return the longest engraved shutter time, s, that is no longer than this one.

    It is the time itself where no dial is as fast, and where any time would do.

    Examples
    --------
    >>> 1 / shorter_marked(1 / 49), 1 / shorter_marked(1 / 10_000)
    (60.0, 10000.0)
    """
    return seconds if math.isinf(seconds) else max((one for one in MARKED if one <= seconds), default=seconds)


_TENTHS = (1.0, 1.25, 1.6, 2.0, 2.5, 3.2, 4.0, 5.0, 6.4, 8.0)


def marked_iso(iso: float) -> float:
    """Return the ISO of the usual third-stop series, 100 125 160 200 …, that lies nearest to ``iso``.

    Examples
    --------
    >>> marked_iso(1692), marked_iso(410)
    (1600.0, 400.0)
    """
    power = 10.0 ** math.floor(math.log10(iso))
    series = [tenth * power * step for step in (1, 10) for tenth in _TENTHS]
    return min(series, key=lambda one: abs(math.log2(one / iso)))
