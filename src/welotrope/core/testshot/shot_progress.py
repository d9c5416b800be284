"""Progress that pictures show: how series with one aid scatter, one after another, and whether the last is finer."""

from __future__ import annotations

import datetime as dt
import math
from collections.abc import Sequence
from dataclasses import dataclass

from welotrope.core.kit.aids.models import AVERAGE_EYE, Eye
from welotrope.core.kit.setup import Setup
from welotrope.core.testshot.aid_series import AidReading, AidVerdictFound, MeasuredShot, read_aid

_INSIDE = 0.975  # quantile of the upper end of a 95 % interval


@dataclass(frozen=True, kw_only=True)
class SeriesProgress:
    """A series with an aid: its key, its day, and what it told."""

    series: str
    taken_at: dt.datetime
    reading: AidReading


@dataclass(frozen=True, kw_only=True)
class ScatterChange:
    """How many times the scatter of the first series that of the last is, with its 95 % interval."""

    times: float
    low: float
    high: float

    @property
    def is_sure(self) -> bool:
        """Whether it changed at all, surely."""
        return self.high < 1 or self.low > 1


@dataclass(frozen=True, kw_only=True)
class AidProgress:
    """Series with one aid, oldest first, and how their scatter changed; None with fewer than two that tell."""

    aid: str
    series: tuple[SeriesProgress, ...]
    change: ScatterChange | None


def progress_with(
    setup: Setup, aid: str, series: Sequence[tuple[str, dt.datetime, Sequence[MeasuredShot]]], *, eye: Eye = AVERAGE_EYE
) -> AidProgress:
    """Return what series with an aid show one after another; those with too few pictures are left out.

    Parameters
    ----------
    setup, aid
        What they were taken with.
    series
        The key of each, when it was begun, and its pictures, in any order.
    eye
        Constants of the eye.
    """
    read = [
        SeriesProgress(series=key, taken_at=taken, reading=read_aid(setup, aid, shots, eye=eye))
        for key, taken, shots in sorted(series, key=lambda one: one[1])
    ]
    told = tuple(one for one in read if one.reading.verdict is not AidVerdictFound.FEW)
    change = scatter_change(told[0].reading, told[-1].reading) if len(told) > 1 else None
    return AidProgress(aid=aid, series=told, change=change)


def scatter_change(first: AidReading, last: AidReading) -> ScatterChange | None:
    """Return how the scatter changed from one series to another; None where one of them shows none.

    The ratio of two variances of normal errors follows Fisher's F with the degrees of freedom of both.

    Parameters
    ----------
    first
        What the earlier series told.
    last
        What the later series told.
    """
    from scipy.special import fdtri

    if first.scatter_windows <= 0 or last.scatter_windows <= 0:
        return None
    ratio = (last.scatter_windows / first.scatter_windows) ** 2
    free = last.count - 1, first.count - 1
    high, low = float(fdtri(free[1], free[0], _INSIDE)), 1 / float(fdtri(free[0], free[1], _INSIDE))
    return ScatterChange(times=math.sqrt(ratio), low=math.sqrt(ratio * low), high=math.sqrt(ratio * high))
