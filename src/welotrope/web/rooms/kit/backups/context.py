"""What the page of backups shows."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.store.backups import DatedBackup


@dataclass(frozen=True, kw_only=True)
class BackupsPage:
    """The backups there are, newest first, where they lie, and how many are kept."""

    backups: tuple[DatedBackup, ...]
    folder: str
    keep: int
