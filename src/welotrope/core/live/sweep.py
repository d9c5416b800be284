"""One subject looked at while the ring turns: how sharp each frame is beside the best so far, and where that was."""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from welotrope.core.live.passing import Looked, Passes, State
from welotrope.core.optics.elementwise import AnyArray

USUAL_SHARP_PX = 3.0
_WIDE = 1.96
_SOON = 10  # frames before it is said that nothing can be told
_DRAWN = 160  # frames of the curve, of which every second is left out once there are more
_STILL = 20  # times the same picture before that is said


class Change(StrEnum):
    """Why a sweep began anew, or why nothing can be told."""

    NONE = ""
    LIGHT = "light"
    MOVED = "moved"
    BUMPED = "bumped"
    SIZE = "size"
    BLACK = "black"
    WHITE = "white"
    PLAIN = "plain"
    STILL = "still"


@dataclass(frozen=True, kw_only=True)
class LiveReading:
    """A frame of a sweep.

    Parameters
    ----------
    frame
        Its number, from 0.
    state, change
        What it means, and what changed or hinders.
    sharpness, best
        How sharp it is and the best so far. Of detail: the standard deviation of the light between 0.085 and 0.29
        periods a pixel over the mean light, per cent. Of a star: 100 over the half-flux radius in pixels.
    share, low, high
        One half where defocus alone, beside the best, is as large as the standard allows; 1 at the best. Its interval
        holds with a chance of 95 %.
    best_frame, best_place, best_low, best_high
        The frame that was best, and where it was: in the unit of the places given, else in frames. None before any.
    """

    frame: int
    state: State
    change: Change = Change.NONE
    sharpness: float = 0.0
    best: float = 0.0
    share: float = 0.0
    low: float = 0.0
    high: float = 1.0
    best_frame: int | None = None
    best_place: float | None = None
    best_low: float | None = None
    best_high: float | None = None


@dataclass(frozen=True, kw_only=True)
class Gauged:
    """What a frame shows: the variance of its blur and its error, or what hinders; and what is needed to judge it.

    Parameters
    ----------
    change
        What changed or hinders; empty where it was gauged.
    begins
        Whether a sweep begins with it.
    blur, error
        Variance of its blur, pixels squared, and its standard error; infinite where nothing can be told.
    softness
        Variance of the blur of the sharpest frame so far, pixels squared.
    unsettled
        By how much less surely the frames before are compared with those from now on, pixels squared.
    fell
        Whether it is surely sharper than those before.
    blocks
        How far edges of compression stand out, a pure number; 0 where that does not matter.
    """

    change: Change = Change.NONE
    begins: bool = False
    blur: float = 0.0
    error: float = math.inf
    softness: float = 0.0
    unsettled: float = 0.0
    fell: bool = False
    blocks: float = 0.0


class Gauge(ABC):
    """Measures the blur of the frames of one sweep."""

    @abstractmethod
    def gauge(self, grey: AnyArray) -> Gauged:
        """Return what the next frame shows; values of 8 bits, shape (height, width)."""

    @abstractmethod
    def sharpness_at(self, blur: float, sharp: float) -> float:
        """Return how sharp a frame of such blur is, as in :class:`LiveReading`; variances in pixels squared."""


class Sweep:
    """The frames of a spot, one after another.

    Parameters
    ----------
    gauge
        What measures them.
    sharp_px
        Diameter of the blur that the standard allows, pixels of the picture that is sent.
    """

    def __init__(self, gauge: Gauge, *, sharp_px: float = USUAL_SHARP_PX) -> None:
        self.sharp = sharp_px**2 / 16
        self._gauge = gauge
        self._passes = Passes(self.sharp)
        self._last: AnyArray | None = None
        self._answer = LiveReading(frame=-1, state=State.SEARCHING)
        self._curve: list[tuple[float, float]] = []
        self._number = -1
        self._since = self._repeated = 0

    def add(self, grey: AnyArray, *, place: float | None = None) -> LiveReading:
        """Return what the next frame tells; one that is the same as the last is not counted.

        Parameters
        ----------
        grey
            Values of 8 bits, shape (height, width).
        place
            Where the ring stood, in units of the caller's choice; None for the number of the frame.

        Raises
        ------
        OutOfRangeError
            When its size cannot be measured.
        """
        if self._last is not None and np.array_equal(grey, self._last):
            self._repeated += 1
            return replace(self._answer, change=Change.STILL) if self._repeated >= _STILL else self._answer
        self._repeated = 0
        gauged = self._gauge.gauge(grey)
        self._last = grey.copy()
        self._number += 1
        self._answer = self._read(gauged, float(self._number) if place is None else place)
        return self._answer

    @property
    def curve(self) -> tuple[tuple[float, float], ...]:
        """Where the ring stood in this sweep, and the share of the best sharpness there, 0 to 1."""
        best = self._passes.best
        if best is None:
            return ()
        return tuple((place, _share(blur - best.blur, self.sharp)) for place, blur in self._curve)

    def _read(self, gauged: Gauged, place: float) -> LiveReading:
        if gauged.begins:
            self._passes, self._since = Passes(self.sharp), self._number
            self._curve.clear()
        elif gauged.change:
            return LiveReading(frame=self._number, state=self._passes.state, change=gauged.change)
        passes = self._passes
        if gauged.unsettled:
            passes.unsettle(gauged.unsettled)
        passes.fell = passes.fell or gauged.fell
        frame = Looked(number=self._number, place=place, blur=gauged.blur, error=gauged.error, blocks=gauged.blocks)
        passes.add(frame, softness=gauged.softness)
        if math.isfinite(gauged.error):
            self._curve = [*(self._curve if len(self._curve) < _DRAWN else self._curve[::2]), (place, gauged.blur)]
        if gauged.begins and gauged.change:
            return LiveReading(frame=self._number, state=State.RESTARTED, change=gauged.change)
        return self._told(frame)

    def _told(self, frame: Looked) -> LiveReading:
        passes, best = self._passes, self._passes.best
        if best is None or not math.isfinite(frame.error):
            nothing = not passes.fell and self._number - self._since >= _SOON and not math.isfinite(frame.error)
            change = Change.PLAIN if nothing else Change.NONE
            return LiveReading(frame=self._number, state=passes.state, change=change)
        off = frame.blur - best.blur
        known = _WIDE * math.hypot(frame.error, best.error) * best.loose
        share, high, low = (_share(one, self.sharp) for one in (off, off - known, off + known))
        return LiveReading(
            frame=self._number, state=passes.state, sharpness=self._gauge.sharpness_at(frame.blur, self.sharp),
            best=self._gauge.sharpness_at(best.blur, self.sharp), share=share, low=low, high=high,
            best_frame=passes.best_frame, best_place=best.place, best_low=best.low, best_high=best.high,
        )  # fmt: skip


def _share(off: float, sharp: float) -> float:
    return float(2 ** -min(max(off, 0.0) / sharp, 60.0))
