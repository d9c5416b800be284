"""What to do differently after a round: the first rule that speaks says it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from welotrope.core.practice.exercises import known_exercise
from welotrope.core.practice.trial import Trial
from welotrope.core.rules import Answer, Finding, Rule, findings

MANY_PASSES = 4


@dataclass(frozen=True)
class RoundCase:
    """A trial, and whether its round began on the far side."""

    trial: Trial
    infinity_first: bool

    @property
    def on_first_side(self) -> bool:
        """Whether the ring was left on the side it began on; behind the subject lies the side of infinity."""
        return (self.trial.error_deg > 0) == self.infinity_first

    @property
    def far(self) -> bool:
        """Whether it missed by more than two windows."""
        return abs(self.trial.error_deg) > 2 * self.trial.window_deg


def _exercise_says(case: RoundCase) -> Answer:
    done = known_exercise(case.trial.exercise)
    if done is None or done.says is None:
        return None
    return Finding(text=done.says(case.trial.hit, case.trial.error_deg))


def _hit(case: RoundCase) -> str | None:
    if not case.trial.hit:
        return None
    if case.trial.passed:
        return "Past sharp and back to it: that is the way."
    return "Sharp, but you never saw the other side of it: turn through and come back to be sure."


def _unpassed(case: RoundCase) -> str | None:
    if case.trial.passed:
        return None
    if not case.on_first_side:
        return "You ended on the other side of sharp in one turn: slower, and come back to it."
    short = "far short of it" if case.far else "just short of it"
    return f"You stopped {short}: turn until it goes soft again, then come back."


def _to_and_fro(case: RoundCase) -> str | None:
    return "Much to and fro: two passes are enough, narrower each time." if case.trial.passed > MANY_PASSES else None


def _close(case: RoundCase) -> str | None:
    if case.far:
        return None
    side = "You came back a little too far" if case.on_first_side else "You stayed a little past it"
    return f"{side}: a finer aid or one stop more would hold it."


def _wide(case: RoundCase) -> str:
    if case.on_first_side:
        return "You came back too far: from the other side turn back by less."
    return "You went far past sharp and stayed there: turn back until it is sharp again."


def _rule(id: str, when: str, says: Callable[[RoundCase], str | None], source: str) -> Rule[RoundCase]:
    def answer(case: RoundCase) -> Answer:
        text = says(case)
        return None if text is None else Finding(text=text)

    return Rule(id=id, when=when, says=answer, source=source)


ROUND_RULES: tuple[Rule[RoundCase], ...] = (
    Rule(
        id="round-exercise",
        when="the exercise has words of its own",
        says=_exercise_says,
        source="what the exercise trains",
    ),
    _rule("round-hit", "the plane lay within the window", _hit, "both sides of sharp must be seen to find the middle"),
    _rule("round-unpassed", "sharp was never passed and left again", _unpassed, "only passing shows where sharp is"),
    _rule(
        "round-to-and-fro", f"sharp was passed more than {MANY_PASSES} times", _to_and_fro, "eyes tire; passes narrow"
    ),
    _rule("round-close", "the miss is within two windows", _close, "that is what the aid or the hand leaves"),
    _rule("round-wide", "the miss is wider", _wide, "a turn back must be less than the turn past"),
)


def advice(trial: Trial, *, infinity_first: bool) -> str:
    """Return one sentence of advice on a trial; ``infinity_first`` when the round began on the far side.

    Parameters
    ----------
    trial
        The round as it was kept.
    infinity_first
        Whether the round began on the far side.
    """
    return findings(ROUND_RULES, RoundCase(trial, infinity_first))[0].text
