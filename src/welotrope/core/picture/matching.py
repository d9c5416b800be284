"""Which picture belongs to which logged frame: by time once the clock is right, or by order for film."""

from __future__ import annotations

import datetime as dt
import re
from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from dataclasses import dataclass

from welotrope.core.errors import OutOfRangeError

TOLERANCE_S = 90.0
BURST_S = 2.0
CLOCK_S = 20.0  # how far times may scatter round one offset of the clock
MOST_OFF_S = 400 * 24 * 3600.0
_LEAST, _LEAST_SHARE = 3, 0.5
_NUMBERS = re.compile(r"(\d+)")


@dataclass(frozen=True)
class Moment:
    """A picture or frame by its key, and when it was taken, s."""

    key: int
    at_s: float


@dataclass(frozen=True, kw_only=True)
class ClockOffset:
    """What puts a camera's clock right: seconds to add to its times, and how many of the pictures then fit a frame."""

    seconds: float
    fit: int
    of: int

    @property
    def believable(self) -> bool:
        """Whether enough pictures agree on it."""
        return self.fit >= _LEAST and self.fit >= _LEAST_SHARE * self.of


def seconds_of(moment: dt.datetime) -> float:
    """Return a local, naive time as seconds from a fixed day.

    Parameters
    ----------
    moment
        Local time without a zone.
    """
    return (moment - dt.datetime(2000, 1, 1)).total_seconds()


def match_by_time(
    pictures: Sequence[Moment], frames: Sequence[Moment], *, tolerance_s: float = TOLERANCE_S
) -> dict[int, int]:
    """Return the frame of each picture that has one, by keys: as many as possible, then the nearest in time.

    Neither is out of order with the other, a frame has one picture, and then those of its burst; s.

    Parameters
    ----------
    pictures
        Pictures, each with its key and time.
    frames
        Logged frames, each with its key and time.
    tolerance_s
        How far in s a picture may be from its frame.
    """
    ordered, logged = (sorted(ones, key=lambda one: (one.at_s, one.key)) for ones in (pictures, frames))
    times = [frame.at_s for frame in logged]
    # best[j]: what the pictures so far can reach using frames before j: how many, how far off in all, and
    # the pairs as a linked list: picture, frame, the pairs before.
    best: list[tuple[int, float, object]] = [(0, 0.0, None)] * (len(logged) + 1)
    for picture in ordered:
        low, high = bisect_left(times, picture.at_s - tolerance_s), bisect_right(times, picture.at_s + tolerance_s)
        if low == high:
            continue
        reached = best[:]
        for index in range(low, len(logged)):
            taken = best[index + 1]
            if index < high:
                count, off, pairs = best[index]
                with_it = (count + 1, off - abs(times[index] - picture.at_s), (picture.key, logged[index].key, pairs))
                taken = max(taken, with_it, key=lambda one: one[:2])
            reached[index + 1] = max(taken, reached[index], key=lambda one: one[:2])
        best = reached
    found = _listed(best[-1][2])
    return {**_bursts(ordered, found), **found}


def _listed(pairs: object) -> dict[int, int]:
    found: dict[int, int] = {}
    while isinstance(pairs, tuple):
        picture, frame, pairs = pairs
        found[picture] = frame
    return found


def _bursts(ordered: Sequence[Moment], found: dict[int, int]) -> dict[int, int]:
    """Return the frames of pictures that were taken within two seconds of one that has one."""
    more: dict[int, int] = {}
    for chain in (ordered, list(reversed(ordered))):
        last: tuple[float, int] | None = None
        for one in chain:
            if one.key in found:
                last = (one.at_s, found[one.key])
            elif last is not None and abs(one.at_s - last[0]) <= BURST_S:
                more.setdefault(one.key, last[1])
                last = (one.at_s, last[1])
    return more


def clock_offset_of(pictures: Sequence[Moment], frames: Sequence[Moment]) -> ClockOffset | None:
    """Return the offset of a camera's clock, s, that makes most of its pictures fit a frame; None without any.

    Of all differences between pictures and frames, the true offset is the one that many share.

    Parameters
    ----------
    pictures
        Pictures, each with its key and time.
    frames
        Logged frames, each with its key and time.
    """
    import numpy as np

    if not pictures or not frames:
        return None
    taken, logged = (np.array([one.at_s for one in ones]) for ones in (pictures, frames))
    apart = np.sort((logged[:, None] - taken[None, :]).ravel())
    apart = apart[np.abs(apart) <= MOST_OFF_S]
    if not len(apart):
        return None
    ends = np.searchsorted(apart, apart + 2 * CLOCK_S, side="right")
    counts = ends - np.arange(len(apart))
    # Among equals the smallest correction.
    middles = np.array([np.median(apart[i : ends[i]]) for i in np.flatnonzero(counts == counts.max())])
    offset = float(np.round(middles[np.argmin(np.abs(middles))]))
    moved = [Moment(one.key, one.at_s + offset) for one in pictures]
    fit = len(match_by_time(moved, frames, tolerance_s=CLOCK_S))
    return ClockOffset(seconds=offset, fit=fit, of=len(pictures))


def offset_between(shown: dt.datetime, written: dt.datetime) -> float:
    """Return what puts a clock right that wrote one time when another was shown to it, s.

    Parameters
    ----------
    shown
        Time that was shown to the camera.
    written
        Time that it wrote.

    Raises
    ------
    OutOfRangeError
        When it is more than 400 days.
    """
    seconds = (shown - written).total_seconds()
    if abs(seconds) > MOST_OFF_S:
        works = "Set the year of one of them right first, or match by order"
        raise OutOfRangeError(
            "clock", f"{shown:%Y-%m-%d %H:%M}", "that is more than 400 days from the picture’s", works
        )
    return seconds


def natural_order(name: str) -> tuple[tuple[int, int | str], ...]:
    """Return what names of files are put in order by: numbers in them count as numbers.

    Parameters
    ----------
    name
        Name of a file.
    """
    parts = _NUMBERS.split(name.lower())
    return tuple((0, int(part)) if part.isdigit() else (1, part) for part in parts if part)


def match_by_order(
    pictures: Sequence[int], frames: Sequence[int], *, first: int = 1, backwards: bool = False
) -> dict[int, int]:
    """Return the frame of each scan, by keys in order: the first scan is the ``first`` frame, counted from 1.

    ``backwards`` for a roll that was scanned from its end.

    Parameters
    ----------
    pictures
        Keys of the pictures in order.
    frames
        Keys of the frames in order.
    first
        Number that counting begins with.
    backwards
        Whether the roll was scanned from its end.

    Raises
    ------
    OutOfRangeError
        When there is no such first frame.
    """
    if not 1 <= first <= max(len(frames), 1):
        works = f"Write 1 to {max(len(frames), 1)}"
        raise OutOfRangeError("first frame", first, f"there are {len(frames)} frames", works)
    scans = list(reversed(pictures)) if backwards else list(pictures)
    return dict(zip(scans, frames[first - 1 :], strict=False))


def format_offset(seconds: float) -> str:
    """Return how far a clock is off in words: what is added to its times has the other sign.

    Parameters
    ----------
    seconds
        Offset of the clock in s.
    """
    if abs(seconds) < 1:
        return "right"
    whole = round(abs(seconds))
    days, rest = divmod(whole, 24 * 3600)
    hours, rest = divmod(rest, 3600)
    minutes, left = divmod(rest, 60)
    parts = [
        f"{count} {unit}"
        for count, unit in ((days, "days" if days != 1 else "day"), (hours, "h"), (minutes, "min"), (left, "s"))
        if count
    ]
    return f"{' '.join(parts[:3])} {'slow' if seconds > 0 else 'fast'}"
