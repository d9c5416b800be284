"""Trials that are set aside by rule, each with its reason: they are kept, named, and take part in no average."""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable
from dataclasses import dataclass

from welotrope.core.rules import Finding, Rule, findings


@dataclass(frozen=True, kw_only=True)
class TrialEvidence:
    """A trial as far as it bears on whether it counts.

    Parameters
    ----------
    person, whose
        Who did it, and whose hand is asked for; empty for the owner.
    taken_at, measured_at
        When it was done, and when its lens was measured again after that; None when it was not.
    in_degrees
        Whether its error was turned into extension by what was then known of the ring.
    at_stop, scored
        Whether it ended at an end of the travel, and whether it is scored at all.
    """

    person: str = ""
    whose: str = ""
    taken_at: dt.datetime
    measured_at: dt.datetime | None = None
    in_degrees: bool = False
    at_stop: bool = False
    scored: bool = True


def _rule(id: str, when: str, text: str, source: str, speaks: Callable[[TrialEvidence], bool]) -> Rule[TrialEvidence]:
    def says(case: TrialEvidence) -> Finding | None:
        return Finding(text=text) if speaks(case) else None

    return Rule(id=id, when=when, says=says, source=source)


SET_ASIDE_RULES: tuple[Rule[TrialEvidence], ...] = (
    _rule("aside-person", "somebody else did it", "somebody else’s hand", "two hands are not one",
          lambda case: case.person != case.whose),
    _rule("aside-unscored", "what was shown was not noted", "what the picture showed was not noted then",
          "without it a miss has no measure", lambda case: not case.scored),
    _rule("aside-measured-again", "the lens was measured again since, and its error was read in degrees",
          "read on a ring that was measured again since", "degrees mean another extension now",
          lambda case: case.in_degrees and case.measured_at is not None),
    _rule("aside-at-stop", "the ring stood at an end of its travel",
          "the ring stood at an end of its travel, where sharp cannot be passed",
          "an end is found by the hand, not by the eye", lambda case: case.at_stop),
)  # fmt: skip


def why_aside(tried: TrialEvidence) -> str:
    """Return why a trial is set aside; empty when it counts."""
    found = findings(SET_ASIDE_RULES, tried)
    return found[0].text if found else ""
