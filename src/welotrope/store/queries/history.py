"""The journal of undoable changes."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from welotrope.store.models import JournalRow
from welotrope.store.rows import fetch


def get_entry(session: Session, id: int) -> JournalRow:
    """Return a journal entry; raises NotFoundError."""
    return fetch(session, JournalRow, "change", id)


def latest_entries(session: Session, limit: int = 12) -> list[JournalRow]:
    """Return the latest changes, newest first."""
    return list(session.scalars(select(JournalRow).order_by(JournalRow.id.desc()).limit(limit)))
