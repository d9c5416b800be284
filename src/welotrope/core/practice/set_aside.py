"""Trials that are set aside by rule, each with its reason: they are kept, named, and take part in no average."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from welotrope.core.rules import Rule, Said, findings


@dataclass(frozen=True, kw_only=True)
class Tried:
    """A trial as far as it bears on whether it counts.

    Parameters
    ----------
    person, whose
        Who did it, and whose hand is asked for; empty for the owner.
    taken_at, measured_at
        When it was done, and when its lens was measured again after that; None when it was not.
    in_degrees
        Whether its error was turned into extension by what was then known of the ring.
    halves_off
        How far off it began, in half windows; None where that is not known.
    at_stop, doubtful, scored
        Whether it ended at an end of the travel, why it looks released by accident, and whether it is scored at all.
    """

    person: str = ""
    whose: str = ""
    taken_at: dt.datetime
    measured_at: dt.datetime | None = None
    in_degrees: bool = False
    halves_off: float | None = None
    at_stop: bool = False
    doubtful: str = ""
    scored: bool = True


LEAST_HALVES = 3.0


def _rule(id: str, when: str, text: str, source: str, speaks: object) -> Rule[Tried]:
    def says(case: Tried) -> Said | None:
        return Said(text=text) if speaks(case) else None  # type: ignore[operator]

    return Rule(id=id, when=when, says=says, source=source)


SET_ASIDE_RULES: tuple[Rule[Tried], ...] = (
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
    _rule("aside-not-off", f"it began less than {LEAST_HALVES:g} half windows off", "it began too near to be found",
          "only what had to be found tells of finding",
          lambda case: case.halves_off is not None and case.halves_off < LEAST_HALVES),
    Rule(id="aside-doubtful", when="it looks released by accident",
         says=lambda case: Said(text=case.doubtful[0].lower() + case.doubtful[1:]) if case.doubtful else None,
         source="no hand focuses within a second, or without turning"),
)  # fmt: skip


def why_aside(tried: Tried) -> str:
    """Return why a trial is set aside; empty when it counts."""
    found = findings(SET_ASIDE_RULES, tried)
    return found[0].text if found else ""
