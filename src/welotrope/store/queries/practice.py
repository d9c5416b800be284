"""Rounds and drills of a person, changes of the kit that are watched, and the constants put in place of the table's."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from sqlalchemy import func, or_, select

from welotrope.core.kit.aids.models import Eye
from welotrope.core.practice.drills import DrillTrial
from welotrope.core.practice.exercises import COUNTING
from welotrope.core.practice.trial import Trial
from welotrope.store.errors import readable, why_unreadable
from welotrope.store.models import DrillRow, EyeConstantRow, KitChangeRow, TrialRow
from welotrope.store.rows import fetch, from_json, read_as, to_json
from welotrope.store.unit_of_work import UnitOfWork

RECENT_DRILLS = 1000
RECENT = 500


@dataclass(frozen=True, kw_only=True)
class StoredDrill:
    """A trial with its key, its session, and when, by whom and with what it was done."""

    id: int
    session: str
    person: str
    setup_id: int | None
    body_name: str
    lens_name: str
    taken_at: dt.datetime
    trial: DrillTrial


@dataclass(frozen=True, kw_only=True)
class NewDrill:
    """What is stored with a trial: its session, and by whom, with what and when it was done."""

    session: str
    person: str = ""
    setup_id: int | None = None
    body_name: str = ""
    lens_name: str = ""
    taken_at: dt.datetime


def add_drill(uow: UnitOfWork, new: NewDrill, trial: DrillTrial) -> int:
    """Store a trial and return its key."""
    row = DrillRow(
        session=new.session, person=new.person, setup_id=new.setup_id, body_name=new.body_name,
        lens_name=new.lens_name, taken_at=new.taken_at, data=to_json(trial),
    )  # fmt: skip
    uow.sql.add(row)
    uow.sql.flush()
    return row.id


def get_drill(uow: UnitOfWork, id: int) -> StoredDrill:
    """Return a trial; raises NotFoundError."""
    return read_as(fetch(uow, DrillRow, "drill", id), "drill", drill_of)


def delete_drill(uow: UnitOfWork, id: int) -> None:
    """Delete a trial."""
    uow.sql.delete(fetch(uow, DrillRow, "drill", id))
    uow.sql.flush()


def list_drills(uow: UnitOfWork, *, limit: int = RECENT_DRILLS) -> list[StoredDrill]:
    """Return the latest trials, oldest first."""
    query = select(DrillRow).order_by(DrillRow.taken_at.desc(), DrillRow.id.desc()).limit(limit)
    return list(reversed(readable(uow.sql.scalars(query), drill_of)))


def drills_of_session(uow: UnitOfWork, session: str) -> list[StoredDrill]:
    """Return the trials of a session, oldest first."""
    query = select(DrillRow).where(DrillRow.session == session).order_by(DrillRow.id)
    return readable(uow.sql.scalars(query), drill_of)


def give_to(uow: UnitOfWork, session: str, person: str) -> int:
    """Say that all trials of a session were somebody's; returns how many."""
    rows = list(uow.sql.scalars(select(DrillRow).where(DrillRow.session == session)))
    for row in rows:
        row.person = person
    uow.sql.flush()
    return len(rows)


def persons(uow: UnitOfWork) -> list[str]:
    """Return the people of whom there are trials, the owner's empty name left out."""
    names = set(uow.sql.scalars(select(DrillRow.person).distinct()))
    names |= set(uow.sql.scalars(select(TrialRow.person).distinct()))
    return sorted(names - {""})


def drill_of(row: DrillRow) -> StoredDrill:
    """Return the value of a row; raises ValueError or its like when the row makes no sense."""
    return StoredDrill(
        id=row.id, session=row.session, person=row.person, setup_id=row.setup_id, body_name=row.body_name,
        lens_name=row.lens_name, taken_at=row.taken_at, trial=from_json(DrillTrial, row.data),
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class KitChange:
    """A change: to which set-up (None for all), what was done, and when."""

    id: int = 0
    setup_id: int | None
    what: str
    note: str = ""
    made_at: dt.datetime


def add_change(uow: UnitOfWork, change: KitChange) -> int:
    """Store a change and return its key."""
    row = KitChangeRow(setup_id=change.setup_id, what=change.what, note=change.note, made_at=change.made_at)
    uow.sql.add(row)
    uow.sql.flush()
    return row.id


def delete_change(uow: UnitOfWork, id: int) -> None:
    """Delete a change."""
    uow.sql.delete(fetch(uow, KitChangeRow, "change", id))
    uow.sql.flush()


def changes_of(uow: UnitOfWork, setup_id: int) -> list[KitChange]:
    """Return the changes to a set-up, newest first."""
    query = (
        select(KitChangeRow)
        .where(or_(KitChangeRow.setup_id == setup_id, KitChangeRow.setup_id.is_(None)))
        .order_by(KitChangeRow.made_at.desc(), KitChangeRow.id.desc())
    )
    return [
        KitChange(id=row.id, setup_id=row.setup_id, what=row.what, note=row.note, made_at=row.made_at)
        for row in uow.sql.scalars(query)
    ]


@dataclass(frozen=True, kw_only=True)
class StoredTrial:
    """A trial with its key, the round it answers, when it was done and with what."""

    id: int
    round_key: str
    taken_at: dt.datetime
    setup_id: int | None
    body_name: str
    lens_name: str
    person: str
    trial: Trial


def add_trial(
    uow: UnitOfWork,
    round_key: str,
    setup_id: int,
    names: tuple[str, str],
    trial: Trial,
    at: dt.datetime,
    *,
    person: str = "",
) -> int:
    """Store the trial that answers a round (``names`` of body and lens); returns its key."""
    row = TrialRow(
        round_key=round_key, setup_id=setup_id, body_name=names[0], lens_name=names[1], taken_at=at,
        person=person,
        exercise=trial.exercise, aid=trial.aid, scene=trial.scene, seed=trial.seed, stop=trial.stop,
        error_deg=trial.error_deg, z=trial.z, outcome=to_json(trial),
    )  # fmt: skip
    uow.sql.add(row)
    uow.sql.flush()
    return row.id


def get_trial(uow: UnitOfWork, id: int) -> StoredTrial:
    """Return a trial; raises NotFoundError."""
    return read_as(fetch(uow, TrialRow, "trial", id), "trial", trial_of)


def trial_of_round(uow: UnitOfWork, round_key: str) -> StoredTrial | None:
    """Return the trial that answered a round, or None."""
    row = uow.sql.scalar(select(TrialRow).where(TrialRow.round_key == round_key))
    return None if row is None else trial_of(row)


def list_trials(uow: UnitOfWork, *, setup_id: int | None = None, limit: int = RECENT) -> list[StoredTrial]:
    """Return the latest trials, newest first, of one set-up or of all."""
    query = select(TrialRow).order_by(TrialRow.taken_at.desc(), TrialRow.id.desc()).limit(limit)
    if setup_id is not None:
        query = query.where(TrialRow.setup_id == setup_id)
    return readable(uow.sql.scalars(query), trial_of)


def delete_trial(uow: UnitOfWork, id: int) -> None:
    """Delete a trial."""
    uow.sql.delete(fetch(uow, TrialRow, "trial", id))
    uow.sql.flush()


def left_out(uow: UnitOfWork) -> int:
    """Count the rounds that are kept but do not count, since what their picture showed was not noted then."""
    query = select(func.count()).where(TrialRow.z.is_(None), TrialRow.exercise.in_(COUNTING))
    return uow.sql.scalar(query) or 0


def own_constants(uow: UnitOfWork) -> dict[str, float]:
    """Return the constants put in place of the table's."""
    kept = {row.id: row.value for row in uow.sql.scalars(select(EyeConstantRow))}
    return {id: value for id, value in kept.items() if why_unreadable({id: value}, Eye.of) is None}


def save_constants(uow: UnitOfWork, own: dict[str, float]) -> None:
    """Keep these constants in place of all kept before."""
    for row in uow.sql.scalars(select(EyeConstantRow).where(EyeConstantRow.id.not_in(own))):
        uow.sql.delete(row)
    for id, value in own.items():
        row = uow.sql.get(EyeConstantRow, id) or EyeConstantRow(id=id)
        row.value = value
        uow.sql.add(row)
    uow.sql.flush()


def trial_of(row: TrialRow) -> StoredTrial:
    """Return the value of a row; raises ValueError or its like when the row makes no sense."""
    trial = from_json(Trial, row.outcome)
    return StoredTrial(
        id=row.id, round_key=row.round_key, taken_at=row.taken_at, setup_id=row.setup_id, body_name=row.body_name,
        lens_name=row.lens_name, person=row.person, trial=trial,
    )  # fmt: skip
