"""Trials that were no focusing at all: told apart by what they are believed to be, and left out of every chance."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

SLIP_RATE = 0.02  # expected beforehand
_WIDE = 8.0  # scale of where a slip may lie, in units of what is shown: a Cauchy law
_NO_FOCUSING = 12.0  # farther off than any hand that focuses
_ROUNDS = 4
_FAR, _HOPELESS = 8.0, 40.0  # in scatters or half windows; half windows
_ALIKE = 3.0  # scatter of a hand that is only off
_PRIOR_TRIALS, _PRIOR_SPREAD, _LEAST_TO_JUDGE = 3.0, 1.0, 5


def slips_of(scores: Sequence[float]) -> frozenset[float]:
    """Return the scores, in units of what is shown, that are more likely slips than focusing.

    A mixture of a normal law and a wide one, by a few rounds of expectation and maximisation from the median.

    Examples
    --------
    >>> sorted(slips_of([0.5, -0.6, 0.4, -0.3, 0.2, -0.5, 0.6, -0.2, -49.0]))
    [-49.0]
    """
    about = _common(scores)
    far = {score for score in scores if abs(score - about) > _NO_FOCUSING}
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


def _common(scores: Sequence[float]) -> float:
    """Return what most scores lie about: a fault of the kit moves all alike, which is no slip; a few cannot show it."""
    if len(scores) < _LEAST_TO_JUDGE:
        return 0.0
    middle = float(np.median(scores))
    scatter = 1.4826 * float(np.median([abs(score - middle) for score in scores]))
    return middle if scatter <= _ALIKE else 0.0


def far_off(values: Sequence[float]) -> frozenset[int]:
    """Return the places of values, as shares of half a window, that lie far from all the others: no shape explains it.

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
