"""Bytes that records refer to, by their hash."""

from __future__ import annotations

import datetime as dt
from collections.abc import Container
from pathlib import Path

from sqlalchemy import String, cast, select

from welotrope.store import files
from welotrope.store.models import Base, FileRow, JournalRow
from welotrope.store.unit_of_work import UnitOfWork


def keep_file(uow: UnitOfWork, data: bytes, media_type: str, now: dt.datetime) -> str:
    """Keep bytes and return their hash; the same bytes are kept once.

    Raises
    ------
    OSError
        When they cannot be written.
    """
    sha256 = files.hash_of(data)
    row = uow.sql.get(FileRow, sha256)
    path = files.path_of(sha256, row.media_type if row else media_type)
    files.write(uow.folder, path, data)
    if row is None:
        uow.sql.add(FileRow(sha256=sha256, path=path, media_type=media_type, bytes=len(data), added=now))
        uow.sql.flush()
    return sha256


def adopt_file(uow: UnitOfWork, source: Path, sha256: str, media_type: str, now: dt.datetime) -> str:
    """Keep a file that lies in the data folder, moving it, and return its hash.

    Raises
    ------
    OSError
        When it cannot be moved.
    """
    row = uow.sql.get(FileRow, sha256)
    length = source.stat().st_size
    path = files.path_of(sha256, row.media_type if row else media_type)
    files.adopt(uow.folder, path, source)
    if row is None:
        uow.sql.add(FileRow(sha256=sha256, path=path, media_type=media_type, bytes=length, added=now))
        uow.sql.flush()
    return sha256


def place_of_file(uow: UnitOfWork, sha256: str) -> Path | None:
    """Return where a kept file lies; None when it is gone."""
    row = uow.sql.get(FileRow, sha256) if files.is_hash(sha256) else None
    path = None if row is None else uow.folder / files.path_of(row.sha256, row.media_type)
    return path if path is not None and path.is_file() and not path.is_symlink() else None


def read_file(uow: UnitOfWork, sha256: str) -> tuple[bytes, str] | None:
    """Return bytes and media type; None when there is no such file, or it is gone or damaged."""
    row = uow.sql.get(FileRow, sha256) if files.is_hash(sha256) else None
    data = files.read(uow.folder, files.path_of(sha256, row.media_type), sha256) if row else None
    return None if row is None or data is None else (data, row.media_type)


def sweep_files(uow: UnitOfWork, wanted_elsewhere: Container[str] = ()) -> list[Path]:
    """Forget files that no record refers to and no undo could bring back.

    Parameters
    ----------
    uow
        The transaction.
    wanted_elsewhere
        Hashes of files that something else refers to, such as a backup.

    Returns
    -------
    list of Path
        Where they lie, to be deleted within the transaction.
    """
    rows = [row for row in uow.sql.scalars(select(FileRow)) if row.sha256 not in wanted_elsewhere]
    gone = [row for row in rows if not _wanted(uow, row.sha256)]
    for row in gone:
        uow.sql.delete(row)
    uow.sql.flush()
    return [uow.folder / files.path_of(row.sha256, row.media_type) for row in gone]


def _wanted(uow: UnitOfWork, sha256: str) -> bool:
    keys = (foreign for table in Base.metadata.tables.values() for foreign in table.foreign_keys)
    for referring in (foreign.parent for foreign in keys if foreign.column.table.name == FileRow.__tablename__):
        if uow.sql.execute(select(referring).where(referring == sha256).limit(1)).first():
            return True
    held = select(JournalRow.id).where(cast(JournalRow.changes, String).contains(sha256)).limit(1)
    return uow.sql.execute(held).first() is not None
