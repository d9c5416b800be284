"""Changes to the kit whose effect is watched."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from sqlalchemy import or_, select

from welotrope.store.models import KitChangeRow
from welotrope.store.rows import fetch
from welotrope.store.unit_of_work import UnitOfWork


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
