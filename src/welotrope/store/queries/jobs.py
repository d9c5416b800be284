"""Long pieces of work, as they stand."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from enum import StrEnum

from sqlalchemy import select, update

from welotrope.store.models import JobRow
from welotrope.store.rows import fetch
from welotrope.store.unit_of_work import UnitOfWork

KEEP = 50


class JobState(StrEnum):
    """How far a piece of work is."""

    WAITING = "waiting"
    RUNNING = "running"
    DONE = "done"
    FAILED = "failed"
    CANCELLED = "cancelled"
    CUT_OFF = "cut off"

    @property
    def over(self) -> bool:
        """Whether nothing more will come of it."""
        return self not in (JobState.WAITING, JobState.RUNNING)


@dataclass(frozen=True, kw_only=True)
class Job:
    """A piece of work: its name, state, parts done of all, a line on it, and where its result is."""

    id: int
    title: str
    state: JobState
    done: int
    total: int
    note: str
    leads_to: str
    began: dt.datetime
    ended: dt.datetime | None

    @property
    def percent(self) -> int | None:
        """Share done, 0 to 100; None when not known."""
        return round(100 * self.done / self.total) if self.total else None


def add_job(uow: UnitOfWork, title: str, now: dt.datetime) -> int:
    """Enter a piece of work; returns its key. Old ones that are over go."""
    row = JobRow(title=title[:120], state=JobState.WAITING.value, done=0, total=0, note="", leads_to="", began=now)
    uow.sql.add(row)
    uow.sql.flush()
    for old in uow.sql.scalars(select(JobRow).where(JobRow.id <= row.id - KEEP)):
        if JobState(old.state).over:
            uow.sql.delete(old)
    return row.id


def get_job(uow: UnitOfWork, id: int) -> Job:
    """Return a piece of work; raises NotFoundError."""
    return _job(fetch(uow, JobRow, "job", id))


def list_jobs(uow: UnitOfWork) -> list[Job]:
    """Return what was worked on, newest first."""
    return [_job(row) for row in uow.sql.scalars(select(JobRow).order_by(JobRow.id.desc()))]


def finish(
    uow: UnitOfWork,
    id: int,
    state: JobState,
    note: str,
    leads_to: str,
    now: dt.datetime,
    *,
    far: tuple[int, int] = (0, 0),
) -> None:
    """Write down how it ended, and how far it came; one that did what it should counts as wholly done."""
    row = fetch(uow, JobRow, "job", id)
    row.done, row.total = far
    row.state, row.note, row.leads_to, row.ended = state.value, note[:400], leads_to, now
    if state is JobState.DONE:
        row.done = row.total = max(row.total, 1)
    uow.sql.flush()


def cut_off(uow: UnitOfWork, now: dt.datetime) -> int:
    """Mark what a program that is no more left unfinished; returns how many."""
    open_states = [state.value for state in JobState if not state.over]
    rows = uow.sql.scalars(select(JobRow.id).where(JobRow.state.in_(open_states))).all()
    if rows:
        note = "Welotrope was closed before it was done; start it again."
        uow.sql.execute(
            update(JobRow)
            .where(JobRow.state.in_(open_states))
            .values(state=JobState.CUT_OFF.value, note=note, ended=now)
        )
    return len(rows)


def _job(row: JobRow) -> Job:
    return Job(
        id=row.id, title=row.title, state=JobState(row.state), done=row.done, total=row.total, note=row.note,
        leads_to=row.leads_to, began=row.began, ended=row.ended,
    )  # fmt: skip
