"""Which frames would decide, and how many: those on which what is believed most differs most from its rival.

A frame whose error is measured tells ``(Δ/σ)²/2`` in favour of the truth on the mean, with ``Δ`` between the two biases
and ``σ`` the scatter there (Kullback and Leibler, *Ann. Math. Stat.* 22 (1951) 79).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from welotrope.core.hand.diagnosis import CARRIED, LEAST_FOR_MISSES, Diagnosis, Explanation, FocusPattern
from welotrope.core.hand.evidence import Settings
from welotrope.core.optics.elementwise import FloatArray
from welotrope.core.stats import wilson

MOST_FRAMES = 60
_BY_SIDE = 0.6  # of what a measured frame tells, one of which only the side is known
_GOOD = 0.8


@dataclass(frozen=True, kw_only=True)
class Wanted:
    """A setting of those offered, by its place, and how many frames to take there."""

    index: int
    frames: int


def frames_needed(diagnosis: Diagnosis, settings: Settings) -> int | None:
    """Return about how many more frames like these would decide, of two figures where it is an estimate.

    It is 0 when it is decided, None when no number would.

    Parameters
    ----------
    diagnosis
        What is believed of why focus misses.
    settings
        Settings that shots were taken at, summed up; focal length, distances and blur in mm.
    """
    if diagnosis.verdict in (FocusPattern.ON_TARGET, FocusPattern.SCATTERED, FocusPattern.WINDOW):
        return 0
    if diagnosis.shots < LEAST_FOR_MISSES:
        return LEAST_FOR_MISSES - diagnosis.shots
    if diagnosis.verdict is FocusPattern.ONE_SIDED and diagnosis.causes:
        return 0
    tells = _told(diagnosis, settings)
    mean = float(settings.shots @ tells) / max(float(settings.shots.sum()), 1.0)
    by_shape = _count(diagnosis, mean)
    if diagnosis.verdict is FocusPattern.NOT_ENOUGH:
        by_hits = _until_hits_tell(diagnosis)
        by_shape = by_hits if by_shape is None else min(by_shape, by_hits)
    return None if by_shape is None else _of_two_figures(by_shape)


def _of_two_figures(count: int) -> int:
    """Return a count rounded up to two figures."""
    step = int(10 ** max(len(str(count)) - 2, 0))
    return math.ceil(count / step) * step


def plan_test(diagnosis: Diagnosis, offered: Settings, *, most: int = 3) -> tuple[Wanted, ...]:
    """Return where to take how many frames to decide, of the settings offered; empty when none would tell.

    The settings that tell most come first; each further one is at another stop, distance or aid.

    Parameters
    ----------
    diagnosis
        What is believed of why focus misses.
    offered
        Settings that can be taken.
    most
        How many at most.
    """
    tells = _told(diagnosis, offered)
    order = [int(index) for index in np.argsort(-tells) if tells[index] > 0]
    chosen: list[int] = []
    for index in order:
        apart = all(_apart(offered, index, other) for other in chosen)
        if apart and (not chosen or tells[index] > 0.2 * tells[chosen[0]]):
            chosen.append(index)
        if len(chosen) == most:
            break
    if not chosen:
        return ()
    count = _count(diagnosis, float(np.mean(tells[chosen]))) or MOST_FRAMES
    each = max(math.ceil(count / len(chosen)), 2)
    return tuple(Wanted(index=index, frames=each) for index in chosen)


def _apart(offered: Settings, one: int, other: int) -> bool:
    if offered.aids[one] != offered.aids[other]:
        return True
    stops, objects = offered.stops, offered.objects
    if abs(math.log2(stops[one] / stops[other])) > 0.9:
        return True
    if math.isinf(objects[one]) or math.isinf(objects[other]):
        return bool(objects[one] != objects[other])
    return abs(math.log(objects[one] / objects[other])) > 0.5


def rivals(diagnosis: Diagnosis) -> tuple[Explanation, Explanation] | None:
    """Return what is believed most and the likeliest of another cause; None without any.

    Parameters
    ----------
    diagnosis
        What is believed of why focus misses.
    """
    ordered = list(diagnosis.explanations)
    if diagnosis.verdict is FocusPattern.ONE_SIDED:
        ordered = [each for each in ordered if each.leans]
    first = ordered[0] if ordered else None
    second = next((each for each in ordered if first is not None and each.causes != first.causes), None)
    return None if first is None or second is None else (first, second)


def _told(diagnosis: Diagnosis, settings: Settings) -> FloatArray:
    """Return what a frame at each setting tells between the two likeliest causes."""
    pair = rivals(diagnosis)
    if pair is None:
        return np.zeros(len(settings.stops))
    first, second = pair
    apart = first.bias(settings) - second.bias(settings)
    scatter = np.maximum(diagnosis.scatter_z * settings.defocus, 1e-9)
    found: FloatArray = _BY_SIDE * (apart / scatter) ** 2 / 2
    return found


def _count(diagnosis: Diagnosis, tells: float) -> int | None:
    """Return how many frames, each telling so much, carry what is believed most; None when too little is told."""
    pair = rivals(diagnosis)
    if pair is None or tells <= 0:
        return None
    lead = math.log(max(pair[0].share, 1e-300) / max(pair[1].share, 1e-300))
    count = max(math.ceil((math.log(CARRIED / (1 - CARRIED)) + 1 - lead) / tells), 1)
    return count if count <= 10 * MOST_FRAMES else None


def _until_hits_tell(diagnosis: Diagnosis) -> int:
    """Return after how many more frames the same share of hits would be told from a good one."""
    share = diagnosis.hits.share if diagnosis.hits else 0.5
    for more in range(2, 10 * MOST_FRAMES, 2):
        count = diagnosis.shots + more
        found = wilson(round(share * count), count)
        if found is not None and (found.high < _GOOD or (share >= _GOOD and found.low >= 0.6)):
            return more
    return MOST_FRAMES
