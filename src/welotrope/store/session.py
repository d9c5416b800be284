"""Opening the database file: check it, migrate it, and hand out sessions."""

from __future__ import annotations

import datetime as dt
import errno
import json
import os
import re
import sqlite3
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from sqlalchemy import Connection, Engine, create_engine, event
from sqlalchemy.orm import sessionmaker

from welotrope.store import outside
from welotrope.store.new_database import create_database
from welotrope.store.unit_of_work import UnitOfWork

LOCK_NAME = ".in-use"
_VERSIONS = Path(__file__).parent / "migrations" / "versions"
HEAD_REVISION = max(path.name[:4] for path in _VERSIONS.glob("[0-9]*.py"))  # of the newest migration
DATABASE_NAME = "welotrope.sqlite3"
# Connections kept open; more than work at once.
WORKERS = 6
_WAIT_S = 5
_BUSY_S = 20  # that a change waits for another; reading waits for none


class FolderLock:
    """The right to serve a data folder.

    Raises
    ------
    DatabaseUnusableError
        When another process holds it.
    """

    def __init__(self, folder: Path) -> None:
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        self._file = os.open(folder / LOCK_NAME, os.O_RDWR | os.O_CREAT | getattr(os, "O_CLOEXEC", 0), 0o600)
        try:
            _lock(self._file)
        except OSError as error:
            os.close(self._file)
            raise DatabaseUnusableError(
                f"{folder} is in use by another Welotrope that is running. Use that one, stop it first, "
                "or name another folder: --data FOLDER."
            ) from error

    def release(self) -> None:
        """Let others serve it."""
        os.close(self._file)

    def __enter__(self) -> FolderLock:
        return self

    def __exit__(self, *_error: object) -> None:
        self.release()


if sys.platform == "win32":
    import msvcrt

    def _lock(file: int) -> None:
        msvcrt.locking(file, msvcrt.LK_NBLCK, 1)
else:
    import fcntl

    def _lock(file: int) -> None:
        fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)


_REVISION = re.compile(r"\d{4}")
_LONG_LIST, _LONG_TEXT, _DECODER, _BETWEEN = 100, 200_000, json.JSONDecoder(), ", \n\r\t"


class DatabaseUnusableError(Exception):
    """The file or its folder cannot be used; what is there was left as it is."""


class Database:
    """The photographer's database file.

    Parameters
    ----------
    folder
        Data folder; made when missing, readable by its owner only.

    Raises
    ------
    DatabaseUnusableError
        When the folder cannot be used, or the file is damaged, locked, no database, or of a newer Welotrope. The
        file is untouched.
    """

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        _make_folder(folder)
        self.path = folder / DATABASE_NAME
        with _file_errors(self.path):
            revision = _inspect(self.path)
            if revision != HEAD_REVISION:
                if revision is not None:
                    self._keep_copy(revision)
                migrate(self.path)
            if not outside.is_kept(folder):
                outside.add_named(folder, _folders_used(self.path, revision))
        os.chmod(self.path, 0o600)
        self.engine = _engine(self.path)
        self._readers = sessionmaker(self.engine, expire_on_commit=False)
        # A transaction that will write takes its turn when it begins: one that has read first could not wait.
        self._writers = sessionmaker(self.engine.execution_options(begin="IMMEDIATE"), expire_on_commit=False)

    @contextmanager
    def session(self, *, write: bool = True) -> Iterator[UnitOfWork]:
        """Open a unit of work, rolled back on error, never committed by itself; with ``write`` it waits for writers."""
        with (self._writers if write else self._readers)() as session:
            yield UnitOfWork(session, self.folder)

    def backup(self, target: Path) -> Path:
        """Write a consistent copy of the database to ``target``, which must not exist.

        Raises
        ------
        FileExistsError
            When ``target`` exists.
        OSError
            When it cannot be written; nothing is left behind.
        """
        if target.exists():
            raise FileExistsError(f"{target} exists already; name another file")
        target.parent.mkdir(parents=True, exist_ok=True)
        draft = target.with_name(f".{target.name}.{os.getpid()}.part")
        try:
            copy_database(self.path, draft)
            os.replace(draft, target)
        except sqlite3.Error as error:
            raise OSError(str(error)) from error
        finally:
            draft.unlink(missing_ok=True)
        return target

    def _keep_copy(self, revision: str) -> None:
        """Put a copy aside before a migration; one that is there from a start that was cut off will do."""
        target = self.folder / f"before-migration-from-{revision}.sqlite3"
        if not target.exists():
            self.backup(target)

    def close(self) -> None:
        """Close all connections."""
        self.engine.dispose()


@contextmanager
def reading(folder: Path) -> Iterator[UnitOfWork]:
    """Open a read-only unit of work on a folder that is in use, from another process."""
    engine = _engine(folder / DATABASE_NAME)
    try:
        with sessionmaker(engine, expire_on_commit=False)() as session:
            yield UnitOfWork(session, folder)
    finally:
        engine.dispose()


@contextmanager
def changing(folder: Path) -> Iterator[UnitOfWork]:
    """Open a unit of work on a folder that is in use, from another process, committed whole or not at all."""
    engine = _engine(folder / DATABASE_NAME).execution_options(begin="IMMEDIATE")
    try:
        with sessionmaker(engine, expire_on_commit=False)() as session:
            yield UnitOfWork(session, folder)
            session.commit()
    finally:
        engine.dispose()


def backup_name(now: dt.datetime) -> str:
    """File name of a backup made at ``now``."""
    return f"welotrope-{now:%Y%m%d-%H%M%S}.sqlite3"


def _folders_used(path: Path, revision: str | None) -> list[Path]:
    """Return the folders that pictures were brought in from, of a database older than the file of folders."""
    if revision is None or not "0009" <= revision < "0011":
        return []
    connection = sqlite3.connect(f"file:{quoted(path)}?mode=ro", uri=True)
    try:
        return [Path(one) for (one,) in connection.execute("SELECT DISTINCT folder FROM picture WHERE folder <> ''")]
    finally:
        connection.close()


def check_database(path: Path) -> None:
    """Raise DatabaseUnusableError for a file that is damaged, no database, or of a newer Welotrope."""
    with _file_errors(path):
        _inspect(path)


def _make_folder(folder: Path) -> None:
    try:
        if folder.exists() and not folder.is_dir():
            raise DatabaseUnusableError(
                f"{folder} is a file, not a folder. Name a folder for your data: --data FOLDER."
            )
        if not folder.exists():
            folder.mkdir(parents=True, mode=0o700)
    except OSError as error:
        raise DatabaseUnusableError(_folder_sentence(folder, error)) from error


def _folder_sentence(folder: Path, error: OSError) -> str:
    if isinstance(error, NotADirectoryError | FileExistsError):
        return f"{folder} cannot be made: a part of that path is a file. Name another folder: --data FOLDER."
    if error.errno == errno.ENOSPC:
        return f"{folder} cannot be made: the disk is full. Make room and start again."
    if error.errno == errno.EROFS:
        return f"{folder} cannot be made: that disk is read-only. Name a folder elsewhere: --data FOLDER."
    return f"{folder} cannot be made: you may not write there. Name a folder of your own: --data FOLDER."


@contextmanager
def _file_errors(path: Path) -> Iterator[None]:
    """Turn what the system says of the file into a sentence with its cure."""
    try:
        yield
    except DatabaseUnusableError:
        raise
    except (sqlite3.Error, OSError, Exception) as error:
        sentence = _file_sentence(path, error)
        if sentence is None:
            raise
        raise DatabaseUnusableError(sentence) from error


def _file_sentence(path: Path, error: BaseException) -> str | None:
    text = str(error).lower()
    if "locked" in text or "busy" in text:
        return f"{path} is in use by another program. Close the other Welotrope, or wait until it is done."
    if "disk is full" in text or getattr(error, "errno", None) == errno.ENOSPC:
        return f"{path} cannot be written: the disk is full. Make room and start again; nothing was lost."
    if "readonly" in text or "read-only" in text or getattr(error, "errno", None) == errno.EROFS:
        return f"{path} is read-only. Allow writing to it and to its folder, or name another folder: --data FOLDER."
    if "unable to open" in text or isinstance(error, PermissionError):
        return f"{path} may not be opened. Allow reading and writing it and its folder, or use --data FOLDER."
    return None


def copy_database(path: Path, target: Path) -> None:
    """Copy a database consistently; the copy is its owner's only."""
    source = sqlite3.connect(f"file:{quoted(path)}?mode=ro", uri=True)
    copy = sqlite3.connect(target)
    try:
        os.chmod(target, 0o600)
        source.backup(copy)
    finally:
        copy.close()
        source.close()


def quoted(path: Path) -> str:
    """Return a path as it stands in the address of a file."""
    from urllib.parse import quote

    return quote(str(path))


def _to_json(value: object) -> str:
    """Write a value as JSON; a long list item by item: written whole it would let no other thread run meanwhile."""
    if isinstance(value, list) and len(value) > _LONG_LIST:
        return f"[{', '.join(map(json.dumps, value))}]"
    return json.dumps(value)


def _from_json(text: str) -> object:
    """Read JSON; a long list item by item, as it was written."""
    if len(text) < _LONG_TEXT or not text.startswith("["):
        return json.loads(text)
    found: list[object] = []
    at = 1
    while True:
        while text[at] in _BETWEEN:
            at += 1
        if text[at] == "]":
            return found
        item, at = _DECODER.raw_decode(text, at)
        found.append(item)


def _engine(path: Path, *, foreign_keys: bool = True) -> Engine:
    engine = create_engine(
        f"sqlite:///{path}",
        pool_size=WORKERS,
        max_overflow=4,
        pool_timeout=_WAIT_S,
        hide_parameters=True,
        json_serializer=_to_json,
        json_deserializer=_from_json,
    )

    @event.listens_for(engine, "connect")
    def _connect(connection: sqlite3.Connection, _record: object) -> None:
        connection.isolation_level = None  # the driver's implicit transactions leave schema changes outside
        for pragma in (
            f"foreign_keys={int(foreign_keys)}",
            f"busy_timeout={_BUSY_S * 1000}",
            "journal_mode=WAL",
            "cache_size=-24000",  # kB; the index of a long log fits
            "synchronous=FULL",
        ):
            connection.execute(f"PRAGMA {pragma}")

    @event.listens_for(engine, "begin")
    def _begin(connection: Connection) -> None:
        connection.exec_driver_sql(f"BEGIN {connection.get_execution_options().get('begin', 'DEFERRED')}")

    return engine


def _inspect(path: Path) -> str | None:
    """Read the schema revision without writing; None for a missing or empty file."""
    if path.is_dir():
        raise DatabaseUnusableError(f"{path} is a folder, where the database should be. Move it away and start again.")
    if not path.exists() or path.stat().st_size == 0:
        return None
    connection = sqlite3.connect(f"file:{quoted(path)}?mode=ro", uri=True)
    try:
        check = connection.execute("PRAGMA quick_check(1)").fetchone()[0]
        if check != "ok":
            raise DatabaseUnusableError(f"{path} is damaged ({check}). It was not changed. Restore a backup over it.")
        if connection.execute("SELECT count(*) FROM sqlite_master").fetchone()[0] == 0:
            return None  # a first start that was cut off before it stored anything
        rows = connection.execute("SELECT version_num FROM alembic_version").fetchall()
    except sqlite3.DatabaseError as error:
        if _file_sentence(path, error) is not None:
            raise
        raise DatabaseUnusableError(
            f"{path} is not a database this program can read ({error}). It was not changed. "
            "Restore a backup over it, or start with another folder: --data FOLDER."
        ) from error
    finally:
        connection.close()
    revision = str(rows[0][0]) if rows else None
    if revision is None or not _REVISION.fullmatch(revision) or revision > HEAD_REVISION:
        raise DatabaseUnusableError(
            f"{path} was written by a newer Welotrope (schema {revision}; this one knows {HEAD_REVISION}). "
            "It was not changed. Install the newer version to open it."
        )
    return revision


def migrate(path: Path, *, revision: str = HEAD_REVISION) -> None:
    """Bring the tables to a revision in one transaction: cut off anywhere, the file is as it was."""
    if revision == HEAD_REVISION and _inspect(path) is None:
        create_database(path)
    else:
        upgrade(path, revision=revision)


def upgrade(path: Path, *, revision: str = HEAD_REVISION) -> None:
    """Do so by all the migrations that lead there."""
    from alembic import command  # slow to import and needed only when a migration is pending
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    # Rebuilding a table drops it, which with foreign keys on would delete everything that refers to it.
    engine = _engine(path, foreign_keys=False)
    try:
        with engine.execution_options(begin="IMMEDIATE").begin() as connection:
            config.attributes["connection"] = connection
            command.upgrade(config, revision)
    finally:
        engine.dispose()
