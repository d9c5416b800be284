"""What a checked frame showed, and the tally of an outing."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

from welotrope.core.stats.proportions import Proportion, wilson


class Outcome(StrEnum):
    """The verdict on a frame once it was looked at."""

    HIT = "hit"
    FRONT = "in front"
    BEHIND = "behind"
    MOVED = "moved"
    UNSURE = "unsure"


@dataclass(frozen=True)
class Tally:
    """Counts of an outing; ``hits`` is the share of hits among frames that were judged hit, in front or behind."""

    frames: int
    marked: int
    hit: int
    front: int
    behind: int
    moved: int
    unsure: int
    hits: Proportion | None


def tally(outcomes: Iterable[Outcome | None]) -> Tally:
    """Count outcomes; frames with None are not marked yet, moved and unsure say nothing about focus."""
    counts = Counter(outcomes)
    hit, front, behind = counts[Outcome.HIT], counts[Outcome.FRONT], counts[Outcome.BEHIND]
    frames = sum(counts.values())
    return Tally(
        frames, frames - counts[None], hit, front, behind, counts[Outcome.MOVED], counts[Outcome.UNSURE],
        wilson(hit, hit + front + behind),
    )  # fmt: skip
