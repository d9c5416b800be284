"""Where in a pass of the ring the picture was sharpest, and whether that lies behind.

The variance of the blur is a parabola over the ring. A hand turns unevenly, so frames count for less the more blurred
they are; with little noise only those about the best one count, with much all of them.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

_MOST_FRAMES = 300  # of a pass that are remembered
_TREND = 3  # frames whose mean is compared with as many before
_AT_BEST, _AT_BEST_MOST = 1 / 16, 1 / 4  # of the standard's variance: an eighth of the window off, and a quarter
_NEW_BEST, _NEW_LEAST = 4.0, 0.25  # times its error, and of the standard's variance, that a later pass must be sharper
_TREND_SURE = 2.0
_UNEVEN = 0.4  # share of its excess to which a frame's blur follows the parabola
_REACH = 6.0  # times the standard's variance up to which frames count
_SURE, _MORE = 4.5, 3  # times its scatter that the rise past the best must be; frames more it may be the mean of
_LASTING = (2, 6)  # frames that a rise must last, at least and at most
_LEAST_RISE = 0.12  # of the standard's variance that blur must have grown by to be past the best
_FAR, _NEAR_PX2 = 0.12, 2.0  # the same far out of focus, of the blur there; and what is not yet far
_LOOKED_AT = 15  # frames whose scatter is looked at where no parabola fits
_LEAST_AFTER = 20  # frames after the best of a pass that began there
# Times its error that the best must lie behind, and that the rise since then must be: either alone is fooled by noise.
_BEHIND_AND_RISEN = ((1.8, 0.8), (1.0, 1.3))
_TOLD_BY = 5  # estimates whose median tells how soft the sharpest frame is
_BLOCKS = 1.2  # how far edges of compression stand out, above which detail may be theirs
_CLEARED, _BLOCKS_GROW = 2, 0.005  # frames ago, and by which share less, they must have shown least
_LEAST_FRAMES = 4  # that a parabola is put through
_WIDE = 1.96
_STEP_PX4 = 1e-8  # least variance of a step between frames before and after what they are compared with was renewed


class State(StrEnum):
    """What a frame means for the hand on the ring."""

    SEARCHING = "searching"  # nothing can be told yet
    RISING = "rising"  # sharper and sharper
    PAST = "past"  # the best lies behind
    AT_BEST = "at_best"  # at the best, as far as it can be told
    RESTARTED = "restarted"  # something else changed than focus


@dataclass(kw_only=True)
class Looked:
    """A frame: its number, where the ring stood, the variance of its blur in pixels squared, and the error of that.

    ``apart`` is the standard error that it shares with all frames before it, against those to come, pixels squared;
    ``blocks`` how far edges of compression stand out, a pure number.
    """

    number: int
    place: float
    blur: float
    error: float
    apart: float = 0.0
    blocks: float = 0.0


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
        self._softness, self._least = math.nan, math.inf
        self._above: list[float] = []  # what softness was estimated to be above the least blur, pixels squared

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
            if math.isinf(error):
                frame.error = error
            else:
                frame.apart = math.hypot(frame.apart, error)

    def add(self, frame: Looked, *, softness: float) -> None:
        """Take a frame; ``softness`` estimates the variance of the blur of the sharpest so far, pixels squared."""
        self.frames.append(frame)
        del self.frames[:-_MOST_FRAMES]
        places, blurs, errors, aparts = (
            [getattr(one, name) for one in self.frames] for name in ("place", "blur", "error", "apart")
        )
        self._running = best_of(places, blurs, errors, aparts, sharp=self.sharp)
        if self._held is not None:
            self._judge_again(self._held)
            return
        self.state = State.RISING if self.fell else State.SEARCHING
        if self._running and not self._is_clearing() and is_past(
            places, blurs, errors, aparts, self._running,
            sharp=self.sharp, softness=self._steadied(softness), fell=self.fell,
        ):  # fmt: skip
            self._held, self._held_frame = self._running, self.frames[self._running.index].number
            self._pass(self._running)
            self.frames = self.frames[-2 * _TREND :]

    def _is_clearing(self) -> bool:
        """Whether blocks of compression show ever less: the subject's own detail still grows, whatever else is told."""
        blocks = [one.blocks for one in self.frames]
        least = int(np.argmin(blocks))
        is_least = len(blocks) - 1 - least < _CLEARED or blocks[-1] <= (1 + _BLOCKS_GROW) * blocks[least]
        return blocks[-1] > _BLOCKS and is_least

    def _steadied(self, softness: float) -> float:
        """Return the softness of the sharpest frame as the last estimates tell it, pixels squared, 0 or more.

        How far the blur has fallen is known better than what is left of it, which edges of compressed blocks hide.
        """
        self._least = min([self._least, *(one.blur for one in self.frames if math.isfinite(one.error))])
        if math.isinf(self._least):
            return softness
        if softness != self._softness:
            self._softness = softness
            self._above = [*self._above, softness - self._least][-_TOLD_BY:]
        return max(float(np.median(self._above)) + self._least, 0.0)

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
        errors = np.array([math.hypot(one.error, one.apart) for one in frames])
        return weighted_mean(np.array([one.blur for one in frames]), errors)


Grid = NDArray[np.float64]


@dataclass(frozen=True, kw_only=True)
class Best:
    """The best of a pass.

    Parameters
    ----------
    place
        Where it is, in the unit of the places given.
    low, high
        Between which it is with a chance of 95 %.
    index
        The frame nearest to it.
    blur, error
        The variance of the blur there, pixels squared, and its standard error.
    loose
        How many times more the frames scatter than they were said to, at least 1.
    fitted
        Whether it is the vertex of a parabola through several frames.
    lasting
        Frames in a row that a rise must last to be believed: an eighth of those within the window of the standard.
    """

    place: float
    low: float
    high: float
    index: int
    blur: float
    error: float
    loose: float = 1.0
    fitted: bool = False
    lasting: int = 3


def best_of(
    places: Sequence[float], blurs: Sequence[float], errors: Sequence[float], aparts: Sequence[float], *, sharp: float
) -> Best | None:
    """Return the best of a pass, whether or not it lies behind; None where no frame tells anything.

    Parameters
    ----------
    places
        Of the ring, or the numbers of the frames.
    blurs, errors
        Variance of the blur of each, pixels squared, and its standard error; infinite where nothing is known.
    aparts
        The standard error that each shares with all before it, against the last, pixels squared: never more than that
        of the one before.
    sharp
        The variance that the standard allows, pixels squared.
    """
    x, v, e, apart = (np.asarray(one, dtype=np.float64) for one in (places, blurs, errors, aparts))
    known = np.isfinite(e)
    if len(x) < 3 or not known.any():
        return None
    whole = np.hypot(e, apart)
    at = _lowest(v, whole, known)
    near = _joined(known & (v - v[at] < _REACH * sharp + 3 * whole), at)
    step = float(np.ptp(x) / (len(x) - 1))
    if near.sum() >= _LEAST_FRAMES and step > 0:
        vertex = _parabola(x[near], v[near], e[near], apart[near], lowest=int(near[:at].sum()), sharp=sharp)
        if vertex is not None and x[near].min() <= vertex.place <= x[near].max():
            index = int(np.flatnonzero(near)[np.abs(x[near] - vertex.place).argmin()])
            return Best(
                place=vertex.place, low=vertex.place - vertex.reach, high=vertex.place + vertex.reach, index=index,
                blur=vertex.blur, error=vertex.error, loose=vertex.loose, fitted=True,
                lasting=min(max(round(vertex.half / step / 4), _LASTING[0]), _LASTING[1]),
            )  # fmt: skip
    return Best(
        place=float(x[at]), low=float(x[at]) - 2 * step, high=float(x[at]) + 2 * step, index=at,
        blur=float(v[at]), error=float(whole[at]), loose=_looseness(v[known], whole[known]),
    )  # fmt: skip


def is_past(
    places: Sequence[float],
    blurs: Sequence[float],
    errors: Sequence[float],
    aparts: Sequence[float],
    best: Best,
    *,
    sharp: float,
    softness: float,
    fell: bool,
) -> bool:
    """Whether the best surely lies behind: the last frames are much more blurred, or somewhat and its place is behind.

    Parameters
    ----------
    places, blurs, errors, aparts, sharp
        As for :func:`best_of`.
    best
        What that returned.
    softness
        Variance of the blur of the sharpest frame so far, pixels squared. Far out of focus frames are told apart less
        surely than their scatter says, so there it must have fallen first and then risen by more.
    fell
        Whether it is known to have fallen before.
    """
    far = softness > 3 * sharp + _NEAR_PX2
    least = _LEAST_RISE * sharp + (_FAR * (softness - 3 * sharp) if far else 0.0)
    v, e, apart = (np.asarray(one, dtype=np.float64) for one in (blurs, errors, aparts))
    e = np.hypot(e, apart) * best.loose
    fell = fell or _fell(v[: best.index], e[: best.index], best, least)
    v, e = v[best.index + 1 :], e[best.index + 1 :]
    if not fell and (far or len(v) < _LEAST_AFTER):
        return False
    lasting = best.lasting
    if len(v) < lasting:
        return False
    mean, error = weighted_mean(v[-lasting:], e[-lasting:])
    rise = mean - best.blur
    if rise > least and _is_behind(places, best, rise / math.hypot(error, best.error)):
        return True
    if v[-lasting:].min() - best.blur < least / 2:
        return False
    for count in range(lasting, min(len(v), lasting + _MORE) + 1):
        mean, error = weighted_mean(v[-count:], e[-count:])
        if mean - best.blur > max(least, _SURE * math.hypot(error, best.error)):
            return True
    return False


def _is_behind(places: Sequence[float], best: Best, risen: float) -> bool:
    """Whether the place of the best lies surely enough behind for a rise of so many times its error."""
    if not best.fitted:
        return False
    beyond = math.copysign(1.0, places[-1] - places[0]) * (places[-1] - best.place)
    behind = beyond / ((best.high - best.low) / (2 * _WIDE))
    return any(behind > place and risen > least for place, least in _BEHIND_AND_RISEN)


def _fell(v: Grid, e: Grid, best: Best, least: float) -> bool:
    """Whether some three frames before the best are surely more blurred."""
    for start in range(0, len(v) - 2):
        mean, error = weighted_mean(v[start : start + 3], e[start : start + 3])
        if mean - best.blur > max(least, _SURE * math.hypot(error, best.error)):
            return True
    return False


def weighted_mean(blurs: Grid, errors: Grid) -> tuple[float, float]:
    """Return the mean of variances of blur by how surely each is known, and its standard error, pixels squared.

    The error is infinite where none is known.

    Parameters
    ----------
    blurs
        Variance of the blur of each frame, pixels squared.
    errors
        Standard error of each, pixels squared; infinite where it is not known.
    """
    known = np.isfinite(errors)
    if not known.any():
        return 0.0, math.inf
    weight = 1 / errors[known] ** 2
    return float((weight * blurs[known]).sum() / weight.sum()), float(1 / math.sqrt(weight.sum()))


def _lowest(v: Grid, e: Grid, known: NDArray[np.bool_]) -> int:
    """Return the frame that is sharpest together with its neighbours, weighed by how sure they are."""
    weight = np.where(known, 1 / np.maximum(e, 1e-6) ** 2, 0.0)
    value = np.where(known, v, 0.0)
    kernel = np.array([0.5, 1.0, 0.5])
    total = np.convolve(weight, kernel, mode="same")
    mean = np.convolve(weight * value, kernel, mode="same") / np.maximum(total, 1e-30)
    return int(np.where(known, mean + 1.0 / np.sqrt(np.maximum(total, 1e-30)), np.inf).argmin())


def _looseness(v: Grid, e: Grid) -> float:
    """Return how many times more than they were said to the last frames scatter, at least 1."""
    v, e = v[-_LOOKED_AT:], e[-_LOOKED_AT:]
    if len(v) < _LEAST_FRAMES + 2:
        return 1.0
    bends = np.abs(v[:-2] - 2 * v[1:-1] + v[2:]) / np.sqrt(e[:-2] ** 2 + 4 * e[1:-1] ** 2 + e[2:] ** 2)
    return max(1.4826 * float(np.median(bends)), 1.0)


def _joined(near: NDArray[np.bool_], at: int) -> NDArray[np.bool_]:
    """Return those of the chosen that follow one another about one of them, over gaps of up to three."""
    found = np.zeros_like(near)
    for step in (1, -1):
        gap, index = 0, at
        while 0 <= index < len(near) and gap <= 3:
            found[index] = near[index]
            gap = 0 if near[index] else gap + 1
            index += step
    return found


@dataclass(frozen=True, kw_only=True)
class _Vertex:
    """The lowest point of a parabola: its place and how far to either side it may be, blur and error there.

    ``loose`` is how many times more the frames scatter than they were said to, ``half`` half the standard's window.
    """

    place: float
    reach: float
    blur: float
    error: float
    loose: float
    half: float


def _parabola(x: Grid, v: Grid, e: Grid, apart: Grid, *, lowest: int, sharp: float) -> _Vertex | None:
    """Return the vertex of the parabola through frames, about the lowest of them; None where it does not bend up.

    Wherever what frames are compared with was renewed, those before may lie a step off those after, all alike.
    """
    at, least = float(x[lowest]), float(v[lowest])
    scale = max(float(np.ptp(x)) / 2, 1e-9)
    u = (x - at) / scale
    weight = 1 / (e**2 + (_UNEVEN * np.maximum(v - least, 0)) ** 2 + 1e-12)
    variances = -np.diff(apart**2)
    renewed = np.flatnonzero(variances > _STEP_PX4)
    steps = (np.arange(len(x))[:, None] <= renewed).astype(np.float64)
    design = np.concatenate([np.stack([np.ones_like(u), u, u**2], axis=1), steps], axis=1)
    known = np.concatenate([np.full(3, 1e-9), 1 / variances[renewed]])
    covariance = np.linalg.inv(design.T @ (weight[:, None] * design) + np.diag(known))
    found = covariance @ (design.T @ (weight * v))
    a, b, c = found[:3]
    off = v - design @ found
    covariance = covariance[:3, :3] * max(float((weight * off**2).sum() / max(len(x) - 3, 1)), 1.0)
    if c <= 0 or c < 2 * math.sqrt(covariance[2, 2]):
        return None
    about = v - least < sharp + 2 * e  # where the hand is even enough for the parabola to hold
    scatter = float(np.sqrt(np.mean((off[about] / e[about]) ** 2))) if about.sum() > _LEAST_FRAMES else 1.0
    loose = max(scatter, 1.0)
    vertex = float(-b / (2 * c))
    slope = np.array([0.0, -1 / (2 * c), b / (2 * c * c)])
    row = np.array([1.0, vertex, vertex**2])
    return _Vertex(
        place=at + scale * vertex, blur=float(a - b * b / (4 * c)), loose=loose, half=scale * math.sqrt(sharp / c),
        reach=_WIDE * loose * scale * math.sqrt(max(float(slope @ covariance @ slope), 0.0)),
        error=loose * math.sqrt(max(float(row @ covariance @ row), 1e-12)),
    )  # fmt: skip
