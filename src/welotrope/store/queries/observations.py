"""What there is to tell a hand by: rounds, drills and frames, each as a trial, and what is set aside and why."""

from __future__ import annotations

import datetime as dt
from collections import defaultdict
from dataclasses import dataclass

from sqlalchemy import func, or_, select

from welotrope.core.hand.skill_trial import SkillTrial
from welotrope.core.practice.drills import attempt_of
from welotrope.core.practice.exercises import COUNTING
from welotrope.core.practice.trial import TrialEvidence, why_aside
from welotrope.core.review.evidence import EvidenceFrame, evidence_of
from welotrope.core.review.outcomes import Outcome
from welotrope.core.testshot.aid_series import as_frame
from welotrope.store.models import FrameRow, MeasurementRow, OutingRow, SetupRow, TrialRow
from welotrope.store.queries import practice
from welotrope.store.queries.kit import StoredSetup
from welotrope.store.queries.ring_records import RecordKind
from welotrope.store.queries.test_shots import StoredShot, shots_of_setup
from welotrope.store.unit_of_work import UnitOfWork

RECENT, MOST_FRAMES = 500, 20_000
_JUDGED = tuple(outcome.value for outcome in Outcome if outcome.says_focus)
_RING_KINDS = (RecordKind.SCALE.value, RecordKind.MEASURED.value)


@dataclass(frozen=True, kw_only=True)
class Observation:
    """A trial as evidence: where it came from, when, with which aid, and why it is set aside (empty when it counts)."""

    source: str
    link: str
    taken_at: dt.datetime
    aid: str
    attempt: SkillTrial
    aside: str = ""


def observations(
    uow: UnitOfWork, now: dt.datetime, *, person: str = "", held: StoredSetup | None = None
) -> list[Observation]:
    """Return everything that tells of somebody's hand, oldest first; frames only of a set-up, and of the owner.

    Frames do not say who took them.
    """
    found = _rounds(uow, now, person) + _drills(uow, now, person)
    if held is not None and not person:
        found += _frames(uow, now, held)
    if held is not None:
        found += _shots(uow, now, held, person)
    return sorted(found, key=lambda one: one.taken_at)


def counting(found: list[Observation]) -> dict[str, tuple[SkillTrial, ...]]:
    """Return the trials that count, by aid, oldest first."""
    by_aid: dict[str, list[SkillTrial]] = defaultdict(list)
    for one in found:
        if not one.aside:
            by_aid[one.aid].append(one.attempt)
    return {aid: tuple(attempts) for aid, attempts in by_aid.items()}


def field_frames(uow: UnitOfWork, setup_id: int, *, limit: int = MOST_FRAMES) -> list[EvidenceFrame]:
    """Return the judged frames of a set-up, oldest first, the latest so many."""
    columns = (
        FrameRow.id, FrameRow.aid, FrameRow.technique, FrameRow.light, FrameRow.stop,
        func.coalesce(FrameRow.believed_mm, FrameRow.distance_mm), FrameRow.focal_mm, FrameRow.outcome,
        FrameRow.miss_mm, FrameRow.taken_at, OutingRow.name,
    )  # fmt: skip
    query = select(*columns).join(OutingRow, OutingRow.id == FrameRow.outing_id).where(
        FrameRow.setup_id == setup_id, FrameRow.outcome.in_(_JUDGED), FrameRow.stop.is_not(None),
        or_(FrameRow.believed_mm.is_not(None), FrameRow.distance_mm.is_not(None)),
    )  # fmt: skip
    query = query.order_by(FrameRow.taken_at.desc(), FrameRow.id.desc()).limit(limit)
    outcomes = {outcome.value: outcome for outcome in Outcome}
    rows = uow.sql.execute(query).all()
    return [
        EvidenceFrame(
            id, aid, technique, light, stop or 0.0, distance, focal, outcomes[mark or ""], miss, taken_at, outing,
            link=f"/log/frames/{id}",
        )
        for id, aid, technique, light, stop, distance, focal, mark, miss, taken_at, outing in reversed(rows)
    ]  # fmt: skip


def other_outcomes(uow: UnitOfWork, setup_id: int, since: dt.datetime | None) -> dict[Outcome | None, int]:
    """Count the frames of a set-up since then that missed for another reason than focus: moved, shaken, the lens."""
    others = (Outcome.MOVED, Outcome.SHAKEN, Outcome.SOFT)
    query = (
        select(FrameRow.outcome, func.count())
        .where(FrameRow.setup_id == setup_id, FrameRow.outcome.in_([one.value for one in others]))
        .group_by(FrameRow.outcome)
    )
    if since is not None:
        query = query.where(FrameRow.taken_at >= since)
    return {Outcome(mark or ""): count for mark, count in uow.sql.execute(query)}


def measured_on(uow: UnitOfWork) -> dict[int, dt.date]:
    """Return when the ring of each set-up was read last, by its key."""
    query = (
        select(SetupRow.id, func.max(MeasurementRow.taken))
        .join(MeasurementRow, MeasurementRow.lens_id == SetupRow.lens_id)
        .where(
            MeasurementRow.withdrawn.is_(False), MeasurementRow.kind.in_(_RING_KINDS),
            or_(MeasurementRow.setup_id.is_(None), MeasurementRow.setup_id == SetupRow.id),
        )
        .group_by(SetupRow.id)
    )  # fmt: skip
    return {id: taken for id, taken in uow.sql.execute(query)}


def _days(now: dt.datetime, then: dt.datetime) -> float:
    return float(max((now - then).days, 0))  # whole days, so that what was worked out today still holds


def _rounds(uow: UnitOfWork, now: dt.datetime, person: str) -> list[Observation]:
    query = (
        select(TrialRow.id, TrialRow.aid, TrialRow.z, TrialRow.taken_at, TrialRow.setup_id, TrialRow.person)
        .where(TrialRow.exercise.in_(COUNTING))
        .order_by(TrialRow.taken_at.desc(), TrialRow.id.desc())
        .limit(RECENT)
    )
    found = []
    for id, aid, z, taken_at, setup_id, who in uow.sql.execute(query):
        why = why_aside(TrialEvidence(person=who, whose=person, taken_at=taken_at, scored=z is not None))
        attempt = SkillTrial(z=z or 0.0, days_ago=_days(now, taken_at), setup=f"finder {setup_id}")
        found.append(
            Observation(
                source="finder", link=f"/practice/trials/{id}", taken_at=taken_at, aid=aid, attempt=attempt, aside=why
            )
        )
    return found


def _drills(uow: UnitOfWork, now: dt.datetime, person: str) -> list[Observation]:
    measured = measured_on(uow)
    found = []
    for stored in practice.list_drills(uow):
        trial = stored.trial
        again = measured.get(stored.setup_id or 0)
        later = None if again is None or again <= stored.taken_at.date() else dt.datetime.combine(again, dt.time())
        tried = TrialEvidence(
            person=stored.person, whose=person, taken_at=stored.taken_at, measured_at=later,
            in_degrees=trial.error_deg is not None, at_stop=trial.at_stop,
            scored=trial.is_scored,
        )  # fmt: skip
        attempt = attempt_of(trial, setup=f"field {stored.setup_id}", days_ago=_days(now, stored.taken_at))
        found.append(
            Observation(
                source=trial.drill.value, link=f"/practice/{trial.drill.value}?session={stored.session}",
                taken_at=stored.taken_at, aid=trial.aid, attempt=attempt, aside=why_aside(tried),
            )
        )  # fmt: skip
    return found


def evidence_of_shot(one: StoredShot) -> EvidenceFrame:
    """Return a test shot as a frame whose miss is known."""
    return as_frame(one.shot, one.aid, one.taken_at, id=one.id, link=f"/shots?series={one.series}")


def _shots(uow: UnitOfWork, now: dt.datetime, held: StoredSetup, person: str) -> list[Observation]:
    """Return the test shots of somebody with a set-up: their misses were measured in the picture."""
    frames = [evidence_of_shot(one) for one in shots_of_setup(uow, held.id) if one.person == person]
    return [
        Observation(
            source="test shot", link=one.frame.link, taken_at=one.frame.taken_at, aid=one.frame.aid,
            attempt=one.attempt(f"field {held.id}", _days(now, one.frame.taken_at)),
        )
        for one in evidence_of(held.setup, frames)
    ]  # fmt: skip


def _frames(uow: UnitOfWork, now: dt.datetime, held: StoredSetup) -> list[Observation]:
    frames = field_frames(uow, held.id, limit=RECENT)
    noted = [frame for frame in frames if frame.aid]
    return [
        Observation(
            source="frame", link=one.frame.link, taken_at=one.frame.taken_at, aid=one.frame.aid,
            attempt=one.attempt(f"field {held.id}", _days(now, one.frame.taken_at)),
        )
        for one in evidence_of(held.setup, noted)
    ]  # fmt: skip
