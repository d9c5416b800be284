"""A photographer's reaction from presses timed in the page."""

from __future__ import annotations

import statistics
from collections.abc import Sequence
from dataclasses import dataclass

from welotrope.core.errors import OutOfRangeError
from welotrope.core.units.numbers import number

LEAST_PRESSES, MOST_PRESSES = 5, 100
EARLIEST_S, LATEST_S = 0.08, 1.5  # before that one guessed, after that one looked away


@dataclass(frozen=True, kw_only=True)
class Reaction:
    """Median and spread of presses, s, and how many counted; the spread is that of a normal law."""

    median_s: float
    spread_s: float
    presses: int

    @property
    def constants(self) -> dict[str, float]:
        """The constants it gives, by id; s, and a pure number of presses."""
        return {
            "reaction": round(self.median_s, 4), "reaction_spread": round(self.spread_s, 4),
            "reaction_presses": float(self.presses),
        }  # fmt: skip


def reaction_of(presses_ms: Sequence[str]) -> Reaction:
    """Return the reaction behind presses, as texts in ms; those before 80 ms were guesses and do not count.

    The spread comes from the middle half of them, so that one moment of looking away does not stretch it.

    Raises
    ------
    OutOfRangeError
        When fewer than five count.

    Examples
    --------
    >>> found = reaction_of(["240", "250", "260", "255", "245"])
    >>> found.median_s, found.presses
    (0.25, 5)
    """
    seconds = [number(text, "press", unit="ms") / 1000 for text in presses_ms[:MOST_PRESSES]]
    counted = sorted(one for one in seconds if EARLIEST_S <= one <= LATEST_S)
    if len(counted) < LEAST_PRESSES:
        raise OutOfRangeError(
            "presses", f"{len(counted)} of {len(seconds)}", "too few count: the others came too early or late",
            "Press ten times, each time as it turns to brass",
        )  # fmt: skip
    low, _, high = statistics.quantiles(counted, n=4)
    spread = max((high - low) / 1.349, 0.005)
    return Reaction(median_s=statistics.median(counted), spread_s=spread, presses=len(counted))
