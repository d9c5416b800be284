"""Trials away from the screen, by person and session."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from sqlalchemy import select

from welotrope.core.practice.drills import DrillTrial
from welotrope.store.broken import readable
from welotrope.store.models import DrillRow, TrialRow
from welotrope.store.rows import fetch, read_as
from welotrope.store.unit_of_work import UnitOfWork
from welotrope.store.values import from_json, to_json

RECENT = 1000


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


def list_drills(uow: UnitOfWork, *, limit: int = RECENT) -> list[StoredDrill]:
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
