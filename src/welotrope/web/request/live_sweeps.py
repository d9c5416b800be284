"""The live sweeps that are under way: a few at once, in memory; they end by themselves when nothing more comes."""

from __future__ import annotations

import re
import threading
import time
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from welotrope.core.errors import UnreadableError
from welotrope.core.fields import SWEEP
from welotrope.core.optics.elementwise import AnyArray
from welotrope.interchange.worker_pool import BusyError

if TYPE_CHECKING:  # what measures takes a while to load; only a live picture needs it
    from welotrope.core.live.outline import Outlined, Outliner
    from welotrope.core.live.sweep import LiveReading, Sweep

MOST_AT_ONCE, IDLE_S = 32, 30.0
_KEY = re.compile(r"[0-9A-Za-z_-]{1,40}")


@dataclass(frozen=True, kw_only=True)
class SweepOrder:
    """What a sweep measures: detail or stars, and the diameter of the blur that the standard allows, pixels."""

    measures: str
    sharp_px: float


@dataclass(frozen=True, kw_only=True)
class Measured:
    """What a frame told, and the share of the best sharpness over the ring so far: pairs of place and share."""

    reading: LiveReading
    curve: tuple[tuple[float, float], ...]


@dataclass
class _Open:
    lock: threading.Lock = field(default_factory=threading.Lock)
    order: SweepOrder | None = None
    sweep: Sweep | None = None
    outliner: Outliner | None = None
    seen: float = 0.0


class LiveSweeps:
    """Keeps the sweeps by their keys."""

    def __init__(self, *, clock: Callable[[], float] = time.monotonic) -> None:
        self._open: OrderedDict[str, _Open] = OrderedDict()
        self._lock = threading.Lock()
        self._clock = clock

    def __len__(self) -> int:
        """Return how many are under way."""
        with self._lock:
            self._end_idle()
            return len(self._open)

    def measure(self, key: str, order: SweepOrder, grey: AnyArray, *, place: float | None = None) -> Measured:
        """Return what the next frame of a sweep tells, and the curve so far; another order begins it anew.

        Raises
        ------
        UnreadableError, OutOfRangeError
            When the key is none, or the frame cannot be measured.
        BusyError
            When too many are under way.
        """
        from welotrope.core.live.gauges import DetailGauge, StarGauge
        from welotrope.core.live.guides import STARS
        from welotrope.core.live.sweep import Sweep

        held = self._held(key)
        with held.lock:
            if held.sweep is None or held.order != order:
                gauge = StarGauge() if order.measures == STARS else DetailGauge()
                held.sweep, held.order = Sweep(gauge, sharp_px=order.sharp_px), order
            return Measured(reading=held.sweep.add(grey, place=place), curve=held.sweep.curve)

    def outline(self, key: str, grey: AnyArray, *, limit_px: float) -> Outlined:
        """Return what is sharp in the mean of the last frames; raises as :meth:`measure` does."""
        from welotrope.core.live.outline import Outliner

        held = self._held(key)
        with held.lock:
            held.outliner = held.outliner or Outliner()
            return held.outliner.add(grey, limit_px=limit_px)

    def _held(self, key: str) -> _Open:
        if not _KEY.fullmatch(key):
            raise UnreadableError(SWEEP, key, "that is no key", "Send 1 to 40 letters and digits of your own")
        with self._lock:
            self._end_idle()
            held = self._open.get(key)
            if held is None:
                if len(self._open) >= MOST_AT_ONCE:
                    raise BusyError(
                        f"{MOST_AT_ONCE} live sweeps run at once. Each ends {IDLE_S:g} s after its last frame."
                    )
                held = self._open[key] = _Open()
            held.seen = self._clock()
            self._open.move_to_end(key)
            return held

    def _end_idle(self) -> None:
        oldest = self._clock() - IDLE_S
        while self._open and next(iter(self._open.values())).seen < oldest:
            self._open.popitem(last=False)
