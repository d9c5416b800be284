"""The handle by which everything outside the store reads and changes records."""

from __future__ import annotations

from pathlib import Path

from sqlalchemy.orm import Session


class UnitOfWork:
    """The photographer's records during one turn, read and changed through ``store.queries`` only.

    ``sql`` and the data ``folder`` are the store's own; nothing outside the store may touch them.
    """

    def __init__(self, sql: Session, folder: Path) -> None:
        self.sql, self.folder = sql, folder

    def commit(self) -> None:
        """Keep what was changed."""
        self.sql.commit()

    def rollback(self) -> None:
        """Drop what was changed since the last commit."""
        self.sql.rollback()
