"""The journal of undoable changes."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from welotrope.store.errors import NotFoundError
from welotrope.store.models import JournalRow


def get_entry(session: Session, id: int) -> JournalRow:
    """Return a journal entry; raises NotFoundError."""
    entry = session.get(JournalRow, id)
    if entry is None:
        raise NotFoundError("change", id)
    return entry


def latest_entries(session: Session, limit: int = 12) -> list[JournalRow]:
    """Return the latest changes, newest first."""
    return list(session.scalars(select(JournalRow).order_by(JournalRow.id.desc()).limit(limit)))
