"""Imports of pictures: from where, and what came of them."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from typing import Any

from sqlalchemy import func, literal_column, select

from welotrope.store.models import PictureImportRow, PictureRow
from welotrope.store.unit_of_work import UnitOfWork

MOST_REFUSED = 200
_NEWEST: tuple[Any, ...] = (PictureImportRow.at.desc(), literal_column("rowid").desc())
KEEP = 50


@dataclass(frozen=True, kw_only=True)
class PictureImport:
    """An import: its source and time, pictures added, known before and still there, and files refused with why."""

    batch: str
    source: str
    at: dt.datetime
    added: int
    known: int
    refused: tuple[str, ...]
    ended: str
    left: int = 0


def begin_import(uow: UnitOfWork, batch: str, source: str, now: dt.datetime) -> None:
    """Enter an import; the oldest go."""
    uow.sql.add(PictureImportRow(batch=batch, source=source[:400], at=now, added=0, known=0, refused=[], ended=""))
    uow.sql.flush()
    for old in uow.sql.scalars(select(PictureImportRow).order_by(*_NEWEST).offset(KEEP)):
        uow.sql.delete(old)
    uow.sql.flush()


def note_import(
    uow: UnitOfWork, batch: str, *, added: int = 0, known: int = 0, refused: tuple[str, ...] = (), ended: str = ""
) -> None:
    """Add to the report of an import."""
    row = uow.sql.get(PictureImportRow, batch)
    if row is None:
        return
    row.added += added
    row.known += known
    row.refused = [*row.refused, *refused][:MOST_REFUSED]
    row.ended = ended or row.ended
    uow.sql.flush()


def list_imports(uow: UnitOfWork, *, limit: int = 8) -> list[PictureImport]:
    """Return the latest imports, newest first, each with how many of its pictures there are."""
    rows = uow.sql.scalars(select(PictureImportRow).order_by(*_NEWEST).limit(limit)).all()
    query = (
        select(PictureRow.batch, func.count()).where(PictureRow.batch.in_([row.batch for row in rows]))
        .group_by(PictureRow.batch)
    )  # fmt: skip
    left = {batch: count for batch, count in uow.sql.execute(query)}
    return [
        PictureImport(
            batch=row.batch, source=row.source, at=row.at, added=row.added, known=row.known,
            refused=tuple(row.refused), ended=row.ended, left=left.get(row.batch, 0),
        )
        for row in rows
    ]  # fmt: skip
