"""Opening the database file: check it, migrate it, and hand out sessions."""

from __future__ import annotations

import datetime as dt
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from sqlalchemy import Engine, create_engine, event
from sqlalchemy.orm import Session, sessionmaker

__all__ = ["Database", "DatabaseUnusableError", "Session", "backup_name"]

HEAD_REVISION = "0004"
DATABASE_NAME = "welotrope.sqlite3"


class DatabaseUnusableError(Exception):
    """The file cannot be used; it was left as it is."""


class Database:
    """The photographer's database file.

    Parameters
    ----------
    folder
        Data folder; made when missing.

    Raises
    ------
    DatabaseUnusableError
        When the file is damaged, is no database, or was written by a newer Welotrope. The file is untouched.
    """

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        folder.mkdir(parents=True, exist_ok=True)
        self.path = folder / DATABASE_NAME
        revision = _inspect(self.path)
        if revision != HEAD_REVISION:
            if revision is not None:
                self.backup(folder / f"before-migration-from-{revision}.sqlite3")
            _migrate(self.path)
        self.engine = _engine(self.path)
        self._sessions = sessionmaker(self.engine, expire_on_commit=False)

    @contextmanager
    def session(self) -> Iterator[Session]:
        """One session; rolled back on error, never committed by itself."""
        with self._sessions() as session:
            yield session

    def backup(self, target: Path) -> Path:
        """Write a consistent copy of the database to ``target``, which must not exist.

        Raises
        ------
        FileExistsError
            When ``target`` exists.
        """
        if target.exists():
            raise FileExistsError(f"{target} exists already; name another file")
        target.parent.mkdir(parents=True, exist_ok=True)
        source = sqlite3.connect(f"file:{self.path}?mode=ro", uri=True)
        copy = sqlite3.connect(target)
        try:
            source.backup(copy)
        finally:
            copy.close()
            source.close()
        return target

    def close(self) -> None:
        """Close all connections."""
        self.engine.dispose()


def backup_name(now: dt.datetime) -> str:
    """File name of a backup made at ``now``."""
    return f"welotrope-{now:%Y%m%d-%H%M%S}.sqlite3"


def _engine(path: Path, foreign_keys: bool = True) -> Engine:
    engine = create_engine(f"sqlite:///{path}")

    @event.listens_for(engine, "connect")
    def _connect(connection: Any, _record: Any) -> None:
        connection.isolation_level = None  # the driver's implicit transactions leave schema changes outside
        for pragma in (
            f"foreign_keys={int(foreign_keys)}",
            "journal_mode=WAL",
            "synchronous=FULL",
            "busy_timeout=5000",
        ):
            connection.execute(f"PRAGMA {pragma}")

    @event.listens_for(engine, "begin")
    def _begin(connection: Any) -> None:
        connection.exec_driver_sql("BEGIN")

    return engine


def _inspect(path: Path) -> str | None:
    """Read the schema revision without writing; None for a missing or empty file."""
    if not path.exists() or path.stat().st_size == 0:
        return None
    connection = sqlite3.connect(f"file:{path}?mode=ro", uri=True)
    try:
        check = connection.execute("PRAGMA quick_check(1)").fetchone()[0]
        if check != "ok":
            raise DatabaseUnusableError(f"{path} is damaged ({check}). It was not changed. Restore a backup over it.")
        if connection.execute("SELECT count(*) FROM sqlite_master").fetchone()[0] == 0:
            return None  # a first start that was cut off before it stored anything
        rows = connection.execute("SELECT version_num FROM alembic_version").fetchall()
    except sqlite3.DatabaseError as error:
        raise DatabaseUnusableError(
            f"{path} is not a database this program can read ({error}). It was not changed. "
            "Restore a backup over it, or start with another folder: --data FOLDER."
        ) from error
    finally:
        connection.close()
    revision = rows[0][0] if rows else None
    if revision is None or revision > HEAD_REVISION:
        raise DatabaseUnusableError(
            f"{path} was written by a newer Welotrope (schema {revision}; this one knows {HEAD_REVISION}). "
            "It was not changed. Install the newer version to open it."
        )
    return str(revision)


def _migrate(path: Path) -> None:
    from alembic import command  # slow to import and needed only when a migration is pending
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    # Rebuilding a table drops it, which with foreign keys on would delete everything that refers to it.
    engine = _engine(path, foreign_keys=False)
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
    engine.dispose()
