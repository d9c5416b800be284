"""What the model of the hand is fed with: misses in what was shown; and which trials were no focusing at all."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache

import numpy as np

from welotrope.core.optics.elementwise import FloatArray

SLIP_RATE = 0.02  # expected beforehand
_PRIOR_SLIPS, _RATES = 10.0, 160
_LEAST_TO_LEVEL, _FLOOR = 20, 0.1
_WIDE = 8.0  # scale of where a slip may lie, in units of what is shown: a Cauchy law
NO_FOCUSING = 12.0  # farther off than any hand that focuses
_ROUNDS = 4
_FAR, _HOPELESS = 8.0, 40.0  # in scatters or half windows; half windows
_ALIKE = 3.0  # scatter of a hand that is only off
_PRIOR_TRIALS, _PRIOR_SPREAD, _LEAST_TO_JUDGE = 3.0, 1.0, 5


class MissSide(StrEnum):
    """Where the plane fell, as far as a picture tells."""

    FRONT = "front"
    HIT = "hit"
    BEHIND = "behind"


def side_of(error: float, half: float) -> MissSide:
    """Return the side an error falls on, positive behind, for half a window in the same unit; its edge is a hit.

    Parameters
    ----------
    error
        Error, positive behind.
    half
        Half the sharp window, in the unit of the error.

    Examples
    --------
    >>> side_of(0.3, 0.2).value, side_of(-0.2, 0.2).value
    ('behind', 'hit')
    """
    within = half * (1 + 1e-9)
    return MissSide.FRONT if error < -within else MissSide.BEHIND if error > within else MissSide.HIT


@dataclass(frozen=True, kw_only=True)
class SkillTrial:
    """A trial with an aid: a miss that was measured, or only the side it fell on.

    Parameters
    ----------
    z
        The miss over what the aid shows, both in mm of extension; positive behind. None when only the side is known.
    side, half_z
        The side, and half the sharp window in the same unit: a hit lies within it.
    days_ago
        How long ago it was, days.
    setup, technique, light
        With what and how, as keys; empty where not noted.
    against
        Key of the mark it was measured against, where that was set by the same hand: such trials tell how much they
        scatter, and not what all of them are off by. Empty when measured against the truth.
    """

    z: float | None = None
    side: MissSide | None = None
    half_z: float = 1.0
    days_ago: float = 0.0
    setup: str = ""
    technique: str = ""
    light: str = ""
    against: str = ""


@dataclass(frozen=True, kw_only=True)
class Manner:
    """With what and how one is about to focus; None where any would do."""

    setup: str | None = None
    technique: str | None = None
    light: str | None = None

    def holds(self, attempt: SkillTrial) -> bool:
        """Whether a trial was done so."""
        return all(
            wanted is None or wanted == was
            for wanted, was in (
                (self.setup, attempt.setup), (self.technique, attempt.technique), (self.light, attempt.light),
            )
        )  # fmt: skip


def slips_of(scores: Sequence[float]) -> frozenset[float]:
    """Return the scores, in units of what is shown, that are more likely slips than focusing.

    A mixture of a normal law and a wide one, by a few rounds of expectation and maximisation from the median.

    Parameters
    ----------
    scores
        Errors in units of what is shown, oldest first.

    Examples
    --------
    >>> sorted(slips_of([0.5, -0.6, 0.4, -0.3, 0.2, -0.5, 0.6, -0.2, -49.0]))
    [-49.0]
    """
    about = _common(scores)
    far = {score for score in scores if abs(score - about) > NO_FOCUSING}
    z = np.array([score for score in scores if score not in far])
    if not len(z):
        return frozenset(far)
    middle = float(np.median(z))
    spread = max(1.4826 * float(np.median(np.abs(z - middle))), 0.25) if len(z) > 2 else 1.5
    slip = SLIP_RATE / (math.pi * _WIDE * (1 + ((z - about) / _WIDE) ** 2))
    share = np.ones(len(z))
    for _ in range(_ROUNDS):
        focused = (1 - SLIP_RATE) * np.exp(-(((z - middle) / spread) ** 2) / 2) / (spread * math.sqrt(2 * math.pi))
        share = focused / (focused + slip)
        middle = float(share @ z / max(share.sum(), 1e-9))
        squares = float(share @ (z - middle) ** 2) + _PRIOR_TRIALS * _PRIOR_SPREAD**2
        spread = max(math.sqrt(squares / (share.sum() + _PRIOR_TRIALS)), 0.1)
    return frozenset(far | {float(score) for score, believed in zip(z, share, strict=True) if believed < 0.5})


@lru_cache(1024)
def slip_belief(slips: int, trials: int) -> tuple[FloatArray, FloatArray]:
    """Return rates at which somebody may slip, fractions, and how much each is believed, after so many of so many.

    A beta law: beforehand :data:`SLIP_RATE`, worth as much as ``_PRIOR_SLIPS`` trials.

    Parameters
    ----------
    slips
        How many of the trials were slips.
    trials
        How many trials there were.

    Examples
    --------
    >>> rates, weights = slip_belief(6, 40)
    >>> round(float(rates @ weights), 3)
    0.124
    """
    a, b = slips + SLIP_RATE * _PRIOR_SLIPS, trials - slips + (1 - SLIP_RATE) * _PRIOR_SLIPS
    edges = np.concatenate([[0.0], np.geomspace(1e-12, 0.999, _RATES)])
    rates = (edges[:-1] + edges[1:]) / 2
    # Per class the density times its width; in the first, where it may have a pole, the integral of rate^(a−1).
    logs = (a - 1) * np.log(rates) + (b - 1) * np.log1p(-rates) + np.log(np.diff(edges))
    logs[0] = a * math.log(edges[1]) - math.log(a)
    weights = np.exp(logs - logs.max())
    return rates, weights / weights.sum()


def log_slip(scores: FloatArray, rate: float) -> FloatArray:
    """Return the log density of scores, in units of what is shown, as slips at a rate; see :func:`slips_of`.

    Parameters
    ----------
    scores
        Errors in units of what is shown, oldest first.
    rate
        Share of trials that are slips, 0 to 1.
    """
    found: FloatArray = np.log(rate / (math.pi * _WIDE * (1 + (scores / _WIDE) ** 2)))
    return found


def levelled(scores: Sequence[float]) -> FloatArray:
    """Return scores as if the hand had always been as steady as now, where it plainly changed.

    In units of what is shown, oldest first.
    The first trials of a hand that learns are coarse, and no slips. Draper and Smith, *Applied Regression Analysis*,
    ch. 1: the slope of their logarithm over the order is put right where it is over twice its error.

    Parameters
    ----------
    scores
        Errors in units of what is shown, oldest first.
    """
    z = np.asarray(scores, dtype=float)
    if len(z) < _LEAST_TO_LEVEL:
        return z
    sizes = np.log(np.abs(z - np.median(z)) + _FLOOR * max(float(np.median(np.abs(z))), 1e-9))
    at = np.arange(len(z)) - (len(z) - 1) / 2
    slope = float(at @ sizes / (at @ at))
    left = sizes - sizes.mean() - slope * at
    error = math.sqrt(float(left @ left) / (len(z) - 2) / float(at @ at))
    if abs(slope) < 2 * error:
        return z
    found: FloatArray = z * np.exp(slope * (len(z) - 1 - np.arange(len(z))))
    return found


def _common(scores: Sequence[float]) -> float:
    """Return what most scores lie about: a fault of the kit moves all alike, which is no slip; a few cannot show it."""
    if len(scores) < _LEAST_TO_JUDGE:
        return 0.0
    middle = float(np.median(scores))
    scatter = 1.4826 * float(np.median([abs(score - middle) for score in scores]))
    return middle if scatter <= _ALIKE else 0.0


def far_off(values: Sequence[float]) -> frozenset[int]:
    """Return the places of values, as shares of half a window, that lie far from all the others: no shape explains it.

    Parameters
    ----------
    values
        Numbers in one unit.

    Examples
    --------
    >>> sorted(far_off([0.4, 1.2, -0.8, 60.0, 0.1, 2.0]))
    [3]
    """
    if len(values) < _LEAST_TO_JUDGE:
        return frozenset(place for place, value in enumerate(values) if abs(value) > _HOPELESS)
    middle = float(np.median(values))
    scatter = 1.4826 * float(np.median([abs(value - middle) for value in values]))
    limit = max(_FAR * scatter, _FAR)
    return frozenset(place for place, value in enumerate(values) if abs(value - middle) > limit)
