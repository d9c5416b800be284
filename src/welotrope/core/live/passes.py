"""The passes of a hand through the best, frame by frame: whether it lies ahead, behind, or here."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from welotrope.core.live.passing import Best, best_of, is_past, weighted_mean

_MOST_FRAMES = 300  # of a pass that are remembered
_TREND = 3  # frames whose mean is compared with as many before
_AT_BEST, _AT_BEST_MOST = 1 / 16, 1 / 4  # of the standard's variance: an eighth of the window off, and a quarter
_NEW_BEST, _NEW_LEAST = 4.0, 0.25  # times its error, and of the standard's variance, that a later pass must be sharper
_TREND_SURE = 2.0


class State(StrEnum):
    """What a frame means for the hand on the ring."""

    SEARCHING = "searching"  # nothing can be told yet
    RISING = "rising"  # sharper and sharper
    PAST = "past"  # the best lies behind
    AT_BEST = "at_best"  # at the best, as far as it can be told
    RESTARTED = "restarted"  # something else changed than focus


@dataclass(kw_only=True)
class Looked:
    """A frame: its number, where the ring stood, the variance of its blur in pixels squared, and the error of that."""

    number: int
    place: float
    blur: float
    error: float


class Passes:
    """The frames since a sweep began, and the best of them once it was passed.

    Parameters
    ----------
    sharp
        The variance of the blur that the standard allows, pixels squared.
    """

    def __init__(self, sharp: float) -> None:
        self.sharp = sharp
        self.frames: list[Looked] = []
        self.state = State.SEARCHING
        self.fell = False
        self._held: Best | None = None
        self._held_frame = 0
        self._went = 0.0  # by how much more it was blurred when it was called past, pixels squared
        self._running: Best | None = None

    @property
    def best(self) -> Best | None:
        """The best that was passed, or the best so far."""
        return self._held or self._running

    @property
    def best_frame(self) -> int | None:
        """The number of its frame, a pure number."""
        if self._held:
            return self._held_frame
        return self.frames[self._running.index].number if self._running else None

    def unsettle(self, error: float) -> None:
        """Let the frames so far be compared less surely with those to come, by a standard error in pixels squared."""
        for frame in self.frames:
            frame.error = math.hypot(frame.error, error)

    def add(self, frame: Looked, *, softness: float) -> None:
        """Take a frame; ``softness`` is the variance of the blur of the sharpest so far, pixels squared."""
        self.frames.append(frame)
        del self.frames[:-_MOST_FRAMES]
        places, blurs, errors = ([getattr(one, name) for one in self.frames] for name in ("place", "blur", "error"))
        self._running = best_of(places, blurs, errors, sharp=self.sharp)
        if self._held is not None:
            self._judge_again(self._held)
            return
        self.state = State.RISING if self.fell else State.SEARCHING
        if self._running and is_past(
            places, blurs, errors, self._running, sharp=self.sharp, softness=softness, fell=self.fell
        ):
            self._held, self._held_frame = self._running, self.frames[self._running.index].number
            self._pass(self._running)
            self.frames = self.frames[-2 * _TREND :]

    def _judge_again(self, held: Best) -> None:
        """Judge a frame after a best was passed: how far from it, and which way it goes."""
        value, error = self._mean(1)
        mean, mean_error = self._mean(_TREND)
        off, known = value - held.blur, math.hypot(error * held.loose, held.error)
        sure = max(_NEW_BEST * math.hypot(mean_error * held.loose, held.error), _NEW_LEAST * self.sharp)
        if held.blur - mean > sure:
            self._held, self.fell, self.state = None, True, State.RISING
            return
        if not known <= self.sharp:
            return
        near = max(_AT_BEST * self.sharp, min(2 * known, _AT_BEST_MOST * self.sharp))
        if self.state is State.PAST:  # what was just called past is at the best again only once it came back
            near = min(near, self._went / 2)
        if off < near:
            self.state = State.AT_BEST
            return
        before, before_error = self._mean(_TREND, skip=_TREND)
        if abs(mean - before) > _TREND_SURE * held.loose * math.hypot(mean_error, before_error):
            if mean < before:
                self.state = State.RISING
            elif self.state is not State.PAST:
                self._pass(held)
        elif self.state is State.AT_BEST:
            self._pass(held)

    def _pass(self, best: Best) -> None:
        """Call the best past."""
        self.state = State.PAST
        self._went = max(self._mean(_TREND)[0] - best.blur, 0.0)

    def _mean(self, count: int, *, skip: int = 0) -> tuple[float, float]:
        """Return the mean blur of frames before the last ones, and its error, pixels squared; infinite for none."""
        end = len(self.frames) - skip
        frames = self.frames[max(end - count, 0) : max(end, 0)]
        return weighted_mean(np.array([one.blur for one in frames]), np.array([one.error for one in frames]))
