"""What a checked frame showed, and the tally of an outing."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from welotrope.core.stats import Proportion, wilson


class Outcome(StrEnum):
    """The verdict on a frame once it was looked at."""

    HIT = "hit"
    FRONT = "in front"
    BEHIND = "behind"
    MOVED = "moved"
    SHAKEN = "shaken"
    SOFT = "soft lens"
    UNSURE = "unsure"

    @property
    def says_focus(self) -> bool:
        """Whether it tells where focus fell."""
        return self in (Outcome.HIT, Outcome.FRONT, Outcome.BEHIND)

    @property
    def is_miss(self) -> bool:
        """Whether focus fell elsewhere."""
        return self in (Outcome.FRONT, Outcome.BEHIND)


@dataclass(frozen=True, kw_only=True)
class Tally:
    """Counts of an outing; ``hits`` is the share of hits among frames that were judged hit, in front or behind."""

    frames: int
    marked: int
    hit: int
    front: int
    behind: int
    others: tuple[tuple[Outcome, int], ...]
    hits: Proportion | None

    @property
    def judged(self) -> int:
        """Frames that say something about focus."""
        return self.hit + self.front + self.behind

    @property
    def unmarked(self) -> int:
        """Frames that were not checked yet."""
        return self.frames - self.marked


def tally(counts: Mapping[Outcome | None, int]) -> Tally:
    """Sum up counted outcomes; frames under None are not marked yet, the rest say nothing about focus.

    Parameters
    ----------
    counts
        How many frames there are of each outcome; under None those not marked.
    """
    hit, front, behind = (counts.get(outcome, 0) for outcome in (Outcome.HIT, Outcome.FRONT, Outcome.BEHIND))
    frames = sum(counts.values())
    others = tuple((one, counts[one]) for one in Outcome if not one.says_focus and counts.get(one))
    return Tally(
        frames=frames, marked=frames - counts.get(None, 0), hit=hit, front=front, behind=behind, others=others,
        hits=wilson(hit, hit + front + behind),
    )  # fmt: skip
