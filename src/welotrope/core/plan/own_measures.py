"""Distances in the photographer's own measures, by the height of the eye, and what a misjudged one does."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass

from welotrope.core.errors import OutOfRangeError
from welotrope.core.hand.skill_estimate import SkillEstimate
from welotrope.core.kit.aids.models import Eye
from welotrope.core.stats import Proportion, chance_within
from welotrope.core.units.distance import Unit, check_distance, parse_distance

ANGLES_DEG = (60.0, 45.0, 30.0, 20.0, 15.0, 10.0)
_FEET_SHARE = 0.08  # how near a distance must lie to the height of the eye to be told by it
_MOST_ARMS, _MOST_PACES = 2.2, 40.0
_NO_END = 40.0  # standard errors, for a zone without a far end


@dataclass(frozen=True, kw_only=True)
class GroundRow:
    """Looking down by an angle, degrees: how far off the ground is, mm from the eye, and from one's feet."""

    down_deg: float
    from_eye_mm: float
    from_feet_mm: float


def ground_row(height_mm: float, down_deg: float) -> GroundRow:
    """Return how far off flat ground is for an eye at a height, mm, that looks down by an angle, 1 to 90 degrees.

    Parameters
    ----------
    height_mm
        Height of the eye above the ground in mm.
    down_deg
        Angle in degrees that one looks down at.

    Raises
    ------
    OutOfRangeError
        When the angle is out of range.

    Examples
    --------
    >>> found = ground_row(1600, 30)
    >>> round(found.from_eye_mm), round(found.from_feet_mm)
    (3200, 2771)
    """
    if not 1 <= down_deg <= 90:
        raise OutOfRangeError("angle", f"{down_deg:g}°", "out of range", "Write 1 to 90°")
    down = math.radians(down_deg)
    return GroundRow(
        down_deg=down_deg, from_eye_mm=height_mm / math.sin(down), from_feet_mm=height_mm / math.tan(down)
    )  # fmt: skip


_COUNTED = re.compile(
    r"(?P<count>\d{1,3}(?:[.,]\d{1,2})?)?\s*(?P<half>½|1/2)?\s*(?P<what>paces?|arms?|arm[- ]?lengths?|arms[- ]lengths?)"
)


@dataclass(frozen=True)
class OwnMeasures:
    """Arm-length, pace, and height of eye and of a camera at the waist above the ground, mm."""

    arm_mm: float
    pace_mm: float
    eye_mm: float
    waist_mm: float

    @classmethod
    def of(cls, eye: Eye) -> OwnMeasures:
        """Take them from the table of constants with the photographer's own put in."""
        return cls(eye["arm_length"], eye["pace"], eye["eye_height"], eye["waist_height"])

    def read(self, text: str, *, field: str, bare: Unit) -> float:
        """Read a distance, mm, written in a unit of length or counted in paces, arm-lengths or heights of the eye.

        Raises
        ------
        UnreadableError, OutOfRangeError
            As :func:`parse_distance`.

        Examples
        --------
        >>> OwnMeasures(700, 750, 1600, 1000).read("2 1/2 paces", field="guess", bare=Unit.METRIC)
        1875.0
        """
        match = _COUNTED.fullmatch(text.strip().lower())
        if match is None:
            return parse_distance(text, field=field, bare=bare)
        measure = self.pace_mm if match["what"].startswith("p") else self.arm_mm
        half = 0.5 if match["half"] else 0.0
        return check_distance(
            (float((match["count"] or "0").replace(",", ".")) + half) * measure, field=field, read=text
        )

    def words(self, distance_mm: float) -> str:
        """Say a distance, mm, such as “1½ arm-lengths”; empty where the measures do not reach.

        Examples
        --------
        >>> OwnMeasures(700, 750, 1600, 1000).words(1500)
        'eye to the ground at your feet'
        """
        if math.isinf(distance_mm) or distance_mm > _MOST_PACES * self.pace_mm:
            return ""
        if abs(distance_mm / self.eye_mm - 1) <= _FEET_SHARE:
            return "eye to the ground at your feet"
        if distance_mm <= _MOST_ARMS * self.arm_mm:
            return _counted(distance_mm / self.arm_mm, "arm-length")
        return _counted(distance_mm / self.pace_mm, "pace")


def _counted(count: float, word: str) -> str:
    halves = max(round(count * 2), 1)
    whole, half = divmod(halves, 2)
    number = f"{whole or ''}{'½' if half else ''}"
    return f"{number} {word}{'' if halves <= 2 else 's'}"


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
