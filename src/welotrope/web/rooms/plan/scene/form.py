"""The subjects and schools of a plan, as the URL carries them."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import TypeVar

from starlette.datastructures import QueryParams

from welotrope.core.errors import WelotropeError
from welotrope.core.plan.scene_plan import FocusSchool, StopSchool
from welotrope.core.plan.setting import MAX_SUBJECTS, Subject, check_count, parse_subject_token, subject_token
from welotrope.core.units.distance import Unit, parse_distance, write_distance

School = TypeVar("School", FocusSchool, StopSchool)


@dataclass(frozen=True)
class SubjectRow:
    """One row of the form as typed, with its error and how it was understood."""

    name: str
    distance: str
    error: str = ""
    understood: float | None = None


@dataclass(frozen=True, kw_only=True)
class Refused:
    """A preset that was not kept: what was sent, why, and whether the name is another's."""

    name: str
    problem: str
    at: str
    stop: str
    taken: bool
    tokens: tuple[str, ...]
    back: str


@dataclass(frozen=True, kw_only=True)
class PlanForm:
    """The form: rows as typed, the subjects that could be read, and the schools."""

    rows: tuple[SubjectRow, ...]
    subjects: tuple[Subject, ...]
    focus: FocusSchool
    stop_rule: StopSchool
    own_stop: str = ""
    refused: Refused | None = None
    errors: dict[str, str] = field(default_factory=dict)

    def own_stop_of(self, stops: tuple[float, ...]) -> float:
        """Return the stop one has, among those marked; the widest where none of them is said."""
        return next((stop for stop in stops if f"{stop:g}" == self.own_stop), min(stops))


def read_plan(query: QueryParams, bare: Unit, *, usual: tuple[Subject, ...] = ()) -> PlanForm:
    """Read ``name``/``distance`` pairs, or else ``subject`` tokens as the other rooms pass them, or else ``usual``.

    A distance without a unit is in ``bare``.
    """
    typed = list(zip(query.getlist("name"), query.getlist("distance"), strict=False))
    if "distance" not in query:
        tokens = query.getlist("subject") or [subject_token(subject) for subject in usual]
        typed = [_typed(token) for token in tokens]
    rows, subjects = [], []
    for number, (name, distance) in enumerate(typed[:MAX_SUBJECTS], start=1):
        name, distance = name.strip()[:40], distance.strip()
        if not name and not distance:
            continue
        label = name or f"subject {number}"
        try:
            mm = parse_distance(distance, field=f"distance of {label}", bare=bare)
        except WelotropeError as error:
            rows.append(SubjectRow(name, distance[:200], error.sentence))
            continue
        rows.append(SubjectRow(name, distance, "", mm))
        subjects.append(Subject(name, mm))
    errors = {}
    try:
        check_count(len(typed))
    except WelotropeError as error:
        errors["subjects"] = error.sentence
    return PlanForm(
        rows=tuple(rows),
        subjects=tuple(subjects),
        focus=_school(FocusSchool, query.get("focus")),
        stop_rule=_school(StopSchool, query.get("stop_rule")),
        own_stop=query.get("own_stop", "")[:10],
        errors=errors,
    )


def _typed(token: str) -> tuple[str, str]:
    try:
        subject = parse_subject_token(token)
    except WelotropeError:
        return token[:40], ""
    return subject.name, write_distance(subject.distance_mm)


def _school(kind: type[School], text: str | None) -> School:
    return kind(text) if text in set(kind) else next(iter(kind))
