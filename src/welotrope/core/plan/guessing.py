"""What a misjudged distance does: the chance that a subject believed at a distance is sharp.

A guess is off in proportion, as often by a factor too near as too far, so the true distance is log-normal about it.
"""

from __future__ import annotations

import math

from welotrope.core.errors import OutOfRangeError
from welotrope.core.hand.skill_estimate import SkillEstimate
from welotrope.core.stats.proportions import Proportion, chance_within

_NO_END = 40.0  # standard errors, for a zone without a far end


def guess_chance(believed_mm: float, near_mm: float, far_mm: float, share: float) -> float:
    """Return the chance, a fraction, that what is believed at a distance lies between two, mm.

    Parameters
    ----------
    believed_mm, near_mm, far_mm
        As believed, and the limits; the far one may be infinite.
    share
        Standard error of a guess as a share of the distance, more than 0 to 1.

    Raises
    ------
    OutOfRangeError
        When the share is out of range.

    Examples
    --------
    >>> round(guess_chance(2000, 2000 / 1.15, 2000 * 1.15, 0.13976), 4)  # one standard error either way
    0.6827
    """
    if not 0 < share <= 1:
        raise OutOfRangeError("guessing error", f"{share:g}", "out of range", "Write more than 0 to 1, such as 0.15")
    if math.isinf(believed_mm):
        return 1.0 if math.isinf(far_mm) else 0.0
    low = math.log(near_mm / believed_mm)
    high = math.log(far_mm / believed_mm) if math.isfinite(far_mm) else _NO_END * share
    return chance_within((high - low) / 2, share, bias=-(high + low) / 2)


def guess_by_hand(believed_mm: float, near_mm: float, far_mm: float, share: float, hand: SkillEstimate) -> Proportion:
    """Return that chance for somebody whose guesses are known, with its 95 % interval.

    Parameters
    ----------
    believed_mm, near_mm, far_mm
        As believed, and the limits; the far one may be infinite.
    share
        Share of the distance that the hand is counted in, the error of the average eye.
    hand
        Of judging distances; positive is too far. Without trials it is the average eye's.
    """
    if math.isinf(believed_mm):
        sure = 1.0 if math.isinf(far_mm) else 0.0
        return Proportion(sure, sure, sure)
    low = math.log(near_mm / believed_mm)
    high = math.log(far_mm / believed_mm) if math.isfinite(far_mm) else _NO_END * share
    return hand.chance((high - low) / 2, share, bias=(high + low) / 2)
