"""One engine for all advice: a table of rules is asked about a case, and each answers, passes, or has nothing to say.

The fit check, the set-up sheet, the aids, the handling and the advice after a round are tables of such rules. Help and
docs are made from the same tables.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from enum import StrEnum
from typing import Generic, TypeVar

CaseT = TypeVar("CaseT")


class Severity(StrEnum):
    """How much a finding matters, worst first."""

    BLOCKER = "stop"
    CAREFUL = "careful"
    NOTE = "note"


class NoFinding(StrEnum):
    """What a rule answers when it finds nothing: that what it asks is known and well, or that it does not arise."""

    CHECKED = "checked"
    NOT_ASKED = "not asked"


@dataclass(frozen=True, kw_only=True)
class Finding:
    """What a rule says of a case.

    Parameters
    ----------
    text
        The finding or what to do, in the photographer's words.
    reason
        The figures or facts behind it.
    clears
        What would clear it.
    severity
        Where it is not the rule's own.
    drawing
        Name of the drawing of what to look for, or ''.
    """

    text: str
    reason: str = ""
    clears: str = ""
    severity: Severity | None = None
    drawing: str = ""


Answer = Finding | NoFinding | None


@dataclass(frozen=True, kw_only=True)
class Rule(Generic[CaseT]):
    """One rule.

    Parameters
    ----------
    id
        Stable key.
    severity
        The worst it says.
    when
        When it speaks, as a clause.
    says
        Its answer to a case; None is the same as “not asked”.
    clears
        What clears it, in general; '' where nothing has to be.
    source
        What it rests on.
    topic
        What it looks at, or where its sentence belongs.
    """

    id: str
    severity: Severity = Severity.NOTE
    when: str
    says: Callable[[CaseT], Answer]
    clears: str = ""
    source: str
    topic: str = ""


@dataclass(frozen=True, kw_only=True)
class RuleFinding:
    """What a rule found; ``rule`` and ``topic`` are the rule's, the rest as in :class:`Finding`."""

    rule: str
    severity: Severity
    topic: str
    text: str
    reason: str
    clears: str
    drawing: str


def answer(rule: Rule[CaseT], case: CaseT) -> RuleFinding | NoFinding:
    """Ask one rule.

    Parameters
    ----------
    rule
        The rule.
    case
        What the rules are asked about.
    """
    said = rule.says(case)
    if said is None:
        return NoFinding.NOT_ASKED
    if isinstance(said, NoFinding):
        return said
    return RuleFinding(
        rule=rule.id, severity=said.severity or rule.severity, topic=rule.topic,
        text=said.text, reason=said.reason, clears=said.clears, drawing=said.drawing,
    )  # fmt: skip


def findings(rules: Iterable[Rule[CaseT]], case: CaseT) -> list[RuleFinding]:
    """Return what the rules find, in the table's order.

    Parameters
    ----------
    rules
        A table of rules.
    case
        What the rules are asked about.
    """
    return [found for rule in rules if isinstance(found := answer(rule, case), RuleFinding)]


def worst_first(found: Iterable[RuleFinding]) -> list[RuleFinding]:
    """Return findings by severity, those alike in the order given.

    Parameters
    ----------
    found
        Findings in the order of their table.
    """
    order = list(Severity)
    return sorted(found, key=lambda finding: order.index(finding.severity))


def checked(rules: Iterable[Rule[CaseT]], case: CaseT) -> list[str]:
    """Return the topics that are known, were looked at and are well; only of these may “checked” be said.

    Parameters
    ----------
    rules
        A table of rules.
    case
        What the rules are asked about.
    """
    return list(dict.fromkeys(rule.topic for rule in rules if answer(rule, case) is NoFinding.CHECKED))


def worded(says: Callable[[CaseT], tuple[str, str] | None]) -> Callable[[CaseT], Answer]:
    """Return an answer from a function that gives what to do and why as two texts, or nothing.

    Parameters
    ----------
    says
        Gives what to do and why, or None for nothing to say.
    """

    def answer_of(case: CaseT) -> Answer:
        words = says(case)
        return None if words is None else Finding(text=words[0], reason=words[1])

    return answer_of


def table_of(rules: Iterable[Rule[CaseT]]) -> dict[str, Rule[CaseT]]:
    """Return rules by id, in order.

    Parameters
    ----------
    rules
        A table of rules.

    Raises
    ------
    ValueError
        When two share an id.
    """
    table: dict[str, Rule[CaseT]] = {}
    for rule in rules:
        if rule.id in table:
            raise ValueError(f"two rules are called {rule.id}")
        table[rule.id] = rule
    return table
