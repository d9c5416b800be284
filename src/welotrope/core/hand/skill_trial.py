"""What the model of the hand is fed with: misses in what was shown, free of stop, distance and lens."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum


class MissSide(StrEnum):
    """Where the plane fell, as far as a picture tells."""

    FRONT = "front"
    HIT = "hit"
    BEHIND = "behind"


def side_of(error: float, half: float) -> MissSide:
    """Return the side an error falls on, positive behind, for half a window in the same unit; its edge is a hit.

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
