"""Sidecars that were written, so that they can be put back as they were."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from sqlalchemy import func, select

from welotrope.store.book import Book
from welotrope.store.models import SidecarRow


@dataclass(frozen=True, kw_only=True)
class Written:
    """A sidecar that was written: where, the hash of what was there (None for nothing) and of what is there since."""

    id: int
    picture_id: int
    path: str
    before_sha: str | None
    after_sha: str


@dataclass(frozen=True)
class Batch:
    """Sidecars written at once: their key, when, how many, and how many of them stand."""

    key: str
    at: dt.datetime
    count: int
    standing: int


def note_written(
    book: Book, batch: str, picture_id: int, path: str, before_sha: str | None, after_sha: str, now: dt.datetime
) -> None:
    """Note a sidecar that was written."""
    book.sql.add(
        SidecarRow(
            batch=batch, picture_id=picture_id, path=path, before_sha=before_sha, after_sha=after_sha, written=now,
            undone=False,
        )
    )  # fmt: skip
    book.sql.flush()


def standing_of(book: Book, batch: str) -> list[Written]:
    """Return what was written at once and not put back yet, the last first."""
    query = (
        select(SidecarRow).where(SidecarRow.batch == batch, SidecarRow.undone.is_(False)).order_by(SidecarRow.id.desc())
    )
    return [
        Written(id=row.id, picture_id=row.picture_id, path=row.path, before_sha=row.before_sha, after_sha=row.after_sha)
        for row in book.sql.scalars(query)
    ]


def note_undone(book: Book, id: int) -> None:
    """Note that a sidecar was put back."""
    row = book.sql.get(SidecarRow, id)
    if row is not None:
        row.undone = True
    book.sql.flush()


def latest_batches(book: Book, limit: int = 5) -> list[Batch]:
    """Return what was written lately, newest first."""
    undone = func.sum(SidecarRow.undone)
    query = (
        select(SidecarRow.batch, func.max(SidecarRow.written), func.count(), undone).group_by(SidecarRow.batch)
        .order_by(func.max(SidecarRow.id).desc()).limit(limit)
    )  # fmt: skip
    return [Batch(key, at, count, count - int(gone or 0)) for key, at, count, gone in book.sql.execute(query)]
