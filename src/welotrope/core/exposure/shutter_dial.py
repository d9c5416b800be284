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


def not_slower(seconds: float) -> float:
    """Return the slowest engraved time, s, that is no slower than ``seconds``; the fastest when all are.

    Examples
    --------
    >>> 1 / not_slower(1 / 140)
    250.0
    """
    return next((one for one in MARKED if one <= seconds * 1.02), MARKED[-1])
