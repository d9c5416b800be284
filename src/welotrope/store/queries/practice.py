"""Rounds in the finder, what they say of a photographer, and the constants put in place of the table's."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from sqlalchemy import func, select

from welotrope.core.kit.aids.constants import Eye
from welotrope.core.practice.exercises import COUNTING
from welotrope.core.practice.trial import Trial
from welotrope.store.broken import readable, why_unreadable
from welotrope.store.models import EyeConstantRow, TrialRow
from welotrope.store.rows import fetch, read_as
from welotrope.store.unit_of_work import UnitOfWork
from welotrope.store.values import from_json, to_json

RECENT = 500


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
