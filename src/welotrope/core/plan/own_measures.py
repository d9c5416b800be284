"""Distances in the photographer's own measures: arm-lengths, paces, the height of the eye above the ground."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass

from welotrope.core.kit.aids.constants import Eye
from welotrope.core.units.distance import Unit, check_distance, parse_distance

_FEET_SHARE = 0.08  # how near a distance must lie to the height of the eye to be told by it
_COUNTED = re.compile(
    r"(?P<count>\d{1,3}(?:[.,]\d{1,2})?)?\s*(?P<half>½|1/2)?\s*(?P<what>paces?|arms?|arm[- ]?lengths?|arms[- ]lengths?)"
)
_MOST_ARMS, _MOST_PACES = 2.2, 40.0


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
