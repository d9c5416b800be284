"""What an outing tells: hits by lens, stop, distance, aid and technique with intervals, and what the misses share."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Protocol

from welotrope.core.review.frame import AID
from welotrope.core.review.outcomes import Outcome, Tally, tally
from welotrope.core.stats import wilson
from welotrope.core.units.exposure import format_stop


class JudgedFrame(Protocol):
    """What is divided: a frame with its outcome; each way looks at what it needs of the rest."""

    @property
    def outcome(self) -> Outcome | None:
        """What it showed; None when it was not looked at."""


# Ends of the classes of distance, mm from the film plane.
BANDS_MM = (1000.0, 2000.0, 4000.0, 8000.0, 16_000.0)
_AIDS = dict(AID.options)
LEAST_MISSES = 5


@dataclass(frozen=True)
class Share:
    """A class of frames by its name, and how it came out."""

    name: str
    tally: Tally


@dataclass(frozen=True)
class Division:
    """The frames of an outing divided by one thing that was set or done."""

    by: str
    shares: tuple[Share, ...]


@dataclass(frozen=True, kw_only=True)
class Leaning:
    """Which side misses fall on, and whether that can be more than chance: the interval of their share behind."""

    front: int
    behind: int
    low: float
    high: float

    @property
    def side(self) -> Outcome | None:
        """The side they lean to; None while chance would do as well, or they are too few."""
        if self.front + self.behind < LEAST_MISSES:
            return None
        return Outcome.BEHIND if self.low > 0.5 else Outcome.FRONT if self.high < 0.5 else None


_WAYS: Mapping[str, Callable[..., tuple[float, str]]] = {
    "outing": lambda frame: (0, frame.outing),
    "lens": lambda frame: (0, frame.lens_name),
    "stop": lambda frame: (frame.stop or 0, format_stop(frame.stop) if frame.stop else ""),
    "distance": lambda frame: _band(frame.distance_mm),
    "aid": lambda frame: (0, _AIDS.get(frame.aid, frame.aid) if frame.aid else ""),
    "technique": lambda frame: (0, frame.technique),
    "support": lambda frame: (0, frame.support),
    "light": lambda frame: (0, frame.light),
}
OF_AN_OUTING = ("lens", "stop", "distance", "aid", "technique", "support", "light")
OF_A_SETUP = ("stop", "distance", "aid", "technique", "light", "outing")


def divide(frames: Sequence[JudgedFrame], *, ways: Sequence[str] = OF_AN_OUTING) -> tuple[Division, ...]:
    """Return how frames came out by what was set or done: lens, stop, distance, aid, technique and so on.

    A division that has but one class says nothing and is left out; so are frames of which the thing is not noted.

    Parameters
    ----------
    frames
        Frames with what they showed.
    ways
        Keys of what frames are divided by.
    """
    found = (Division(by, _shares(frames, _WAYS[by])) for by in ways)
    return tuple(one for one in found if len(one.shares) > 1)


def _band(mm: float | None) -> tuple[float, str]:
    """Return a class of distance with its rank: ends in metres, as they are said."""
    if mm is None:
        return 0, ""
    if math.isinf(mm):
        return len(BANDS_MM) + 1, "infinity"
    rank = sum(mm >= end for end in BANDS_MM)
    if rank == 0:
        return rank, f"under {BANDS_MM[0] / 1000:g} m"
    if rank == len(BANDS_MM):
        return rank, f"{BANDS_MM[-1] / 1000:g} m and more"
    return rank, f"{BANDS_MM[rank - 1] / 1000:g} to {BANDS_MM[rank] / 1000:g} m"


def _shares(frames: Sequence[JudgedFrame], sort: Callable[[object], tuple[float, str]]) -> tuple[Share, ...]:
    classes: dict[tuple[float, str], list[JudgedFrame]] = {}
    for frame in frames:
        rank, name = sort(frame)
        if name:
            classes.setdefault((rank, name), []).append(frame)
    return tuple(Share(name, tally(counted(held))) for (_, name), held in sorted(classes.items()))


def counted(frames: Iterable[JudgedFrame]) -> dict[Outcome | None, int]:
    """Return how many frames there are of each outcome; None for those not checked.

    Parameters
    ----------
    frames
        Frames with what they showed.
    """
    counts: dict[Outcome | None, int] = {}
    for frame in frames:
        counts[frame.outcome] = counts.get(frame.outcome, 0) + 1
    return counts


def leaning(frames: Iterable[JudgedFrame]) -> Leaning | None:
    """Return which side the misses of some frames fall on, with the interval of the share behind; None without any.

    Parameters
    ----------
    frames
        Frames with what they showed.
    """
    counts = counted(frames)
    front, behind = counts.get(Outcome.FRONT, 0), counts.get(Outcome.BEHIND, 0)
    share = wilson(behind, front + behind)
    return None if share is None else Leaning(front=front, behind=behind, low=share.low, high=share.high)
