"""Dated backups: one a day when something changed, the last fourteen kept, and restoring one."""

from __future__ import annotations

import datetime as dt
import os
import sqlite3
from dataclasses import dataclass
from pathlib import Path

from welotrope.store.session import (
    DATABASE_NAME,
    Database,
    DatabaseUnusableError,
    backup_name,
    check_database,
    copy_database,
)

FOLDER, KEEP = "backups", 14
_COUNTED = (("lens", "lenses"), ("body", "bodies"), ("preset", "presets"), ("frame", "frames"), ("trial", "rounds"))


@dataclass(frozen=True, kw_only=True)
class DatedBackup:
    """A backup: its file, its day, its size in bytes, and what it holds."""

    path: Path
    made: dt.date
    size: int
    holds: tuple[tuple[str, int], ...]


def keep_daily(database: Database, now: dt.datetime) -> Path | None:
    """Make today's backup unless there is one or nothing changed since the last; returns it.

    Of more than fourteen the oldest go.
    """
    folder = database.folder / FOLDER
    folder.mkdir(exist_ok=True, mode=0o700)
    kept = _files(folder)
    if kept and (_day(kept[-1]) >= now.date() or not _changed_since(database.path, kept[-1])):
        return None
    made = database.backup(folder / backup_name(now))
    for old in _files(folder)[:-KEEP]:
        old.unlink()
    return made


def list_backups(folder: Path) -> list[DatedBackup]:
    """All dated backups of a data folder, newest first."""
    found = []
    for path in reversed(_files(folder / FOLDER)):
        found.append(DatedBackup(path=path, made=_day(path), size=path.stat().st_size, holds=_holds(path)))
    return found


def restore(backup: Path, folder: Path, now: dt.datetime) -> Path | None:
    """Put a backup in place of a folder's database, which is kept beside it; returns where.

    Raises
    ------
    DatabaseUnusableError
        When the backup cannot be used or the database is in use; nothing is changed.
    """
    if not backup.exists():
        raise DatabaseUnusableError(f"{backup} is not there. Name a backup file.")
    check_database(backup)
    target = folder / DATABASE_NAME
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    kept = None
    if target.exists():
        _check_free(target)
        kept = folder / f"before-restore-{now:%Y%m%d-%H%M%S}.sqlite3"
        copy_database(target, kept)
    draft = folder / f".{DATABASE_NAME}.restore"
    copy_database(backup, draft)
    os.replace(draft, target)
    for side in ("-wal", "-shm"):
        Path(f"{target}{side}").unlink(missing_ok=True)
    return kept


def _check_free(path: Path) -> None:
    connection = sqlite3.connect(path, timeout=1)
    try:
        connection.execute("PRAGMA locking_mode=EXCLUSIVE")
        connection.execute("BEGIN EXCLUSIVE")
        connection.rollback()
    except sqlite3.OperationalError as error:
        raise DatabaseUnusableError(f"{path} is in use ({error}). Stop Welotrope first, then restore.") from error
    finally:
        connection.close()


def _files(folder: Path) -> list[Path]:
    return sorted(folder.glob("welotrope-????????-??????.sqlite3"))


def _day(path: Path) -> dt.date:
    return dt.datetime.strptime(path.stem.split("-")[1], "%Y%m%d").date()


def _changed_since(database: Path, backup: Path) -> bool:
    beside = [path for path in (database, Path(f"{database}-wal")) if path.exists()]
    return any(path.stat().st_mtime > backup.stat().st_mtime for path in beside)


def _holds(path: Path) -> tuple[tuple[str, int], ...]:
    connection = sqlite3.connect(f"file:{path}?mode=ro", uri=True)
    try:
        tables = {name for (name,) in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
        return tuple(
            (words, connection.execute(f"SELECT count(*) FROM {table}").fetchone()[0])
            for table, words in _COUNTED
            if table in tables
        )
    except sqlite3.Error:
        return ()
    finally:
        connection.close()
