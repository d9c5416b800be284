"""Sidecars that were written, so that they can be put back as they were."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from enum import StrEnum

from sqlalchemy import case, func, select

from welotrope.store.models import SidecarRow
from welotrope.store.unit_of_work import UnitOfWork


class SidecarState(StrEnum):
    """How far a sidecar is: it is noted before anything is done to it."""

    BEGUN = "begun"
    WRITTEN = "written"
    UNDOING = "undoing"
    UNDONE = "undone"


@dataclass(frozen=True, kw_only=True)
class Written:
    """A sidecar that is being or was written.

    Where it lies, the hash of what was there (None for nothing) and of what is to be there since, and how far it is.
    """

    id: int
    picture_id: int
    path: str
    before_sha: str | None
    after_sha: str
    state: SidecarState


@dataclass(frozen=True)
class Batch:
    """Sidecars written at once: their key, when, how many, and how many of them stand."""

    key: str
    at: dt.datetime
    count: int
    standing: int


def begin_writing(
    uow: UnitOfWork, batch: str, picture_id: int, path: str, before_sha: str | None, after_sha: str, now: dt.datetime
) -> int:
    """Note a sidecar that will be written, and return its key; to be committed before the file is touched."""
    row = SidecarRow(
        batch=batch, picture_id=picture_id, path=path, before_sha=before_sha, after_sha=after_sha, written=now,
        state=SidecarState.BEGUN.value,
    )  # fmt: skip
    uow.sql.add(row)
    uow.sql.flush()
    return row.id


def put_state(uow: UnitOfWork, id: int, state: SidecarState) -> None:
    """Note how far a sidecar is."""
    row = uow.sql.get(SidecarRow, id)
    if row is not None:
        row.state = state.value
    uow.sql.flush()


def forget_begun(uow: UnitOfWork, id: int) -> None:
    """Forget a sidecar that was begun and not written."""
    row = uow.sql.get(SidecarRow, id)
    if row is not None and row.state == SidecarState.BEGUN.value:
        uow.sql.delete(row)
    uow.sql.flush()


def standing_of(uow: UnitOfWork, batch: str) -> list[Written]:
    """Return what was written at once and not put back yet, the last first."""
    standing = (SidecarState.WRITTEN.value, SidecarState.UNDOING.value)
    query = select(SidecarRow).where(SidecarRow.batch == batch, SidecarRow.state.in_(standing))
    return [_written(row) for row in uow.sql.scalars(query.order_by(SidecarRow.id.desc()))]


def unfinished(uow: UnitOfWork) -> list[Written]:
    """Return what was begun or being put back when the program ended."""
    between = (SidecarState.BEGUN.value, SidecarState.UNDOING.value)
    return [_written(row) for row in uow.sql.scalars(select(SidecarRow).where(SidecarRow.state.in_(between)))]


def _written(row: SidecarRow) -> Written:
    return Written(
        id=row.id, picture_id=row.picture_id, path=row.path, before_sha=row.before_sha, after_sha=row.after_sha,
        state=SidecarState(row.state),
    )  # fmt: skip


def latest_batches(uow: UnitOfWork, *, limit: int = 5) -> list[Batch]:
    """Return what was written lately, newest first."""
    undone = func.sum(case((SidecarRow.state == SidecarState.UNDONE.value, 1), else_=0))
    query = (
        select(SidecarRow.batch, func.max(SidecarRow.written), func.count(), undone)
        .where(SidecarRow.state != SidecarState.BEGUN.value).group_by(SidecarRow.batch)
        .order_by(func.max(SidecarRow.id).desc()).limit(limit)
    )  # fmt: skip
    return [Batch(key, at, count, count - int(gone or 0)) for key, at, count, gone in uow.sql.execute(query)]
