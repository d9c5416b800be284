"""Dated backups when something changed: often of late, rarer the older they are; and restoring one."""

from __future__ import annotations

import datetime as dt
import json
import os
import shutil
import sqlite3
import tempfile
from collections.abc import Callable
from contextlib import closing as closed
from dataclasses import asdict, dataclass
from pathlib import Path

from welotrope.store import files, outside
from welotrope.store.archive import ArchiveError, read_archive
from welotrope.store.new_database import differs_from_new
from welotrope.store.record_check import check_records
from welotrope.store.session import (
    DATABASE_NAME,
    Database,
    DatabaseUnusableError,
    backup_name,
    check_database,
    copy_database,
    quoted,
)

READY_FOLDER, _ABOUT = "ready", "about.json"
Step = Callable[[int, int, str], None]
FOLDER = "backups"
_UNCHANGED, _HEAD, _CHUNK = "unchanged", 100, 1024 * 1024
_COUNTED = (("lens", "lenses"), ("body", "bodies"), ("preset", "presets"), ("frame", "frames"), ("trial", "rounds"))


class NotReadyError(Exception):
    """What was to be put in place cannot be: a sentence."""


@dataclass(frozen=True, kw_only=True)
class Ready:
    """What waits: the name of its file, whether it is an archive, and how many things of each kind it holds."""

    name: str
    is_archive: bool
    holds: tuple[tuple[str, int], ...]


def make_ready(source: Path, folder: Path, step: Step) -> Ready:
    """Check a backup or an archive and keep it ready in a data folder; what was ready before is let go of.

    Raises
    ------
    NotReadyError
        When it is neither, or cannot be taken; what is in use was not touched.
    """
    if not source.is_file():
        raise NotReadyError(f"{source.name or source} is no file here. Name a backup or an archive of Welotrope.")
    let_go(folder)
    place = folder / READY_FOLDER
    place.mkdir(mode=0o700)
    is_archive = source.suffix.lower() == ".zip"
    try:
        if is_archive:
            read_archive(source, place, step=step)
        else:
            sound_copy(source, place / DATABASE_NAME)
    except (ArchiveError, DatabaseUnusableError, OSError) as error:
        let_go(folder)
        raise NotReadyError(str(error).replace("Nothing was changed. ", "")) from error
    found = Ready(name=source.name, is_archive=is_archive, holds=holds(place / DATABASE_NAME))
    (place / _ABOUT).write_text(json.dumps(asdict(found)), encoding="utf-8")
    return found


def what_is_ready(folder: Path) -> Ready | None:
    """Return what waits in a data folder, None for nothing."""
    try:
        about = json.loads((folder / READY_FOLDER / _ABOUT).read_text(encoding="utf-8"))
        return Ready(
            name=str(about["name"]), is_archive=bool(about["is_archive"]),
            holds=tuple((str(words), int(count)) for words, count in about["holds"]),
        )  # fmt: skip
    except (OSError, ValueError, KeyError, TypeError):
        return None


def put_in_place(database: Database, now: dt.datetime) -> Path:
    """Put what is ready in place of what a database holds, all of it or nothing; returns where that is kept.

    Nobody else may be writing meanwhile; who is reading reads on what was there.

    Raises
    ------
    NotReadyError
        When nothing is ready, or the disk has no room.
    """
    place = database.folder / READY_FOLDER
    draft = place / DATABASE_NAME
    if what_is_ready(database.folder) is None or not draft.is_file():
        raise NotReadyError("Nothing is ready to be put in place. Look into a backup or an archive first.")
    kept = database.folder / f"before-restore-{now:%Y%m%d-%H%M%S}.sqlite3"
    try:
        copy_database(database.path, kept)
        if (place / files.FOLDER).is_dir():
            shutil.copytree(place / files.FOLDER, database.folder / files.FOLDER, dirs_exist_ok=True)
        source, target = sqlite3.connect(draft), sqlite3.connect(database.path, timeout=10)
        try:
            source.backup(target)
        finally:
            target.close()
            source.close()
    except (OSError, sqlite3.Error) as error:
        raise NotReadyError(f"It could not be put in place ({error}). What was there is as it was.") from error
    let_go(database.folder)
    return kept


def let_go(folder: Path) -> None:
    """Let go of what is ready."""
    shutil.rmtree(folder / READY_FOLDER, ignore_errors=True)


_EVERY = dt.timedelta(hours=1)
# How long back, and one for how long then: hours of a day, days of two weeks, weeks of a quarter, months of two years.
_THINNED = (
    (dt.timedelta(days=1), _EVERY), (dt.timedelta(days=14), dt.timedelta(days=1)),
    (dt.timedelta(days=92), dt.timedelta(days=7)), (dt.timedelta(days=732), dt.timedelta(days=30)),
)  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class DatedBackup:
    """A backup: its file, when it was made, its size in bytes, and what it holds."""

    path: Path
    made: dt.datetime
    size: int
    holds: tuple[tuple[str, int], ...]


def keep_due(database: Database, now: dt.datetime, *, closing: bool = False) -> Path | None:
    """Make a backup unless one was made within the hour, or it would hold what another holds; returns it.

    With ``closing`` the hour does not count: the work of a session is not to wait for the next one. Whether something
    changed is seen from what is in it, not from dates: a clock may have stood wrong.
    """
    folder = database.folder / FOLDER
    folder.mkdir(exist_ok=True, mode=0o700)
    kept = _files(folder)
    times = [made for made in map(_made, kept) if made is not None and made <= now]
    if not closing and times and now - max(times) < _EVERY:
        return None
    signature, unchanged = _signature(database.path), folder / _UNCHANGED
    if kept and unchanged.exists() and unchanged.read_text(encoding="ascii", errors="replace") == signature:
        return None
    return _keep(database, now, signature)


def keep_now(database: Database, now: dt.datetime) -> Path | None:
    """Make a backup at once; None when it would hold what another holds. Returns it."""
    folder = database.folder / FOLDER
    folder.mkdir(exist_ok=True, mode=0o700)
    return _keep(database, now, _signature(database.path))


def _keep(database: Database, now: dt.datetime, signature: str) -> Path | None:
    folder = database.folder / FOLDER
    kept, target = _files(folder), folder / backup_name(now)
    if target.exists():
        target = next(
            one
            for second in range(1, 3600)
            if not (one := folder / backup_name(now + dt.timedelta(seconds=second))).exists()
        )
    made = database.backup(target)
    (folder / _UNCHANGED).write_text(signature, encoding="ascii")
    if any(_holds_the_same(made, one) for one in kept):
        made.unlink()
        return None
    for old in thinned([*kept, made], now):
        old.unlink()
    return made


def thinned(kept: list[Path], now: dt.datetime) -> list[Path]:
    """Return the backups that may go: of each hour, day, week and month the newest stays, as far back as those reach.

    Those whose names say no time, or one ahead, are told by when they were written.
    """
    newest: dict[tuple[int, int], tuple[dt.datetime, Path]] = {}
    for path in kept:
        made = _made(path)
        if made is None or made > now:
            made = min(dt.datetime.fromtimestamp(path.stat().st_mtime), now)
        span = next((index for index, (back, _) in enumerate(_THINNED) if now - made <= back), None)
        if span is None:
            continue
        place = span, int((made - dt.datetime(2000, 1, 1)) / _THINNED[span][1])
        if place not in newest or newest[place][0] <= made:
            newest[place] = made, path
    staying = {path for _, path in newest.values()}
    return [path for path in kept if path not in staying]


def _signature(database: Path) -> str:
    """Return what a change of a database changes outside it: lengths and times of its files."""
    beside = [path for path in (database, Path(f"{database}-wal")) if path.exists()]
    return " ".join(f"{path.stat().st_mtime_ns}/{path.stat().st_size}" for path in beside)


def _holds_the_same(one: Path, other: Path) -> bool:
    """Whether two backups hold the same, byte for byte, but for the counters of changes in their first page."""
    if one.stat().st_size != other.stat().st_size:
        return False
    with one.open("rb") as left, other.open("rb") as right:
        if _but_counters(left.read(_HEAD)) != _but_counters(right.read(_HEAD)):
            return False
        while data := left.read(_CHUNK):
            if data != right.read(_CHUNK):
                return False
    return True


def _but_counters(head: bytes) -> bytes:
    # Change counter, schema cookie excepted, and the version-valid-for number (SQLite file format, 1.3.6 and 1.3.7).
    return head[:24] + head[28:92] + head[96:]


def list_backups(folder: Path) -> list[DatedBackup]:
    """All backups of a data folder, newest first: the dated ones, and what was there before something was put back."""
    found = []
    for path in [*_files(folder / FOLDER), *folder.glob("before-*.sqlite3")]:
        made = _made(path) or dt.datetime.fromtimestamp(path.stat().st_mtime)
        found.append(DatedBackup(path=path, made=made, size=path.stat().st_size, holds=holds(path)))
    return sorted(found, key=lambda one: one.made, reverse=True)


def files_named(folder: Path) -> frozenset[str] | None:
    """Return the hashes of the kept files that any backup of a folder refers to; None when one cannot be read."""
    found: set[str] = set()
    for backup in list_backups(folder):
        try:
            with closed(sqlite3.connect(f"file:{quoted(backup.path)}?mode=ro", uri=True)) as connection:
                tables = {name for (name,) in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
                if "file" in tables:
                    found |= {sha256 for (sha256,) in connection.execute("SELECT sha256 FROM file")}
        except sqlite3.Error:
            return None
    return frozenset(found)


def restore(backup: Path, folder: Path, now: dt.datetime) -> Path | None:
    """Put a backup in place of a folder's database, which is kept beside it; returns where.

    It is brought up to date and every record of it read in a folder of its own before anything is replaced. Devices
    have to be paired again: one that was let go of since would come back with it.

    Raises
    ------
    DatabaseUnusableError
        When the backup cannot be used or the database is in use; nothing is changed.
    """
    target = folder / DATABASE_NAME
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    with tempfile.TemporaryDirectory(dir=folder, prefix=".restore-") as name:
        draft = Path(name) / DATABASE_NAME
        sound_copy(backup, draft)
        kept = None
        if target.exists():
            _check_free(target)
            kept = folder / f"before-restore-{now:%Y%m%d-%H%M%S}.sqlite3"
            copy_database(target, kept)
        if not outside.is_kept(folder):
            outside.add_named(folder, [])
        os.replace(draft, target)
    for side in ("-wal", "-shm"):
        Path(f"{target}{side}").unlink(missing_ok=True)
    return kept


def sound_copy(backup: Path, draft: Path) -> None:
    """Copy a backup, bring the copy up to date and check all of it; raises DatabaseUnusableError."""
    if not backup.exists():
        raise DatabaseUnusableError(f"{backup} is not there. Name a backup file.")
    if backup.is_file() and backup.stat().st_size == 0:
        raise DatabaseUnusableError(f"{backup} is empty, and no backup. Name another.")
    check_database(backup)
    copy_database(backup, draft)
    _make_sound(backup, draft)


def _make_sound(backup: Path, draft: Path) -> None:
    """Bring a copy of a backup up to date and check all of it; raises DatabaseUnusableError."""
    try:
        Database(draft.parent).close()
        strange = differs_from_new(draft)
    except DatabaseUnusableError:
        raise
    except Exception as error:  # a migration may fall over anything that a database holds
        raise DatabaseUnusableError(
            f"{backup} cannot be brought up to date ({type(error).__name__}). Nothing was changed. Name another backup."
        ) from error
    if strange:
        raise DatabaseUnusableError(
            f"{backup} is no database of Welotrope: {strange}. Nothing was changed. Name another backup."
        )
    problems = check_records(draft, shown_as_broken=True)
    if problems:
        raise DatabaseUnusableError(
            f"{backup} holds what cannot be taken. {' '.join(problems)} Nothing was changed. Name another backup."
        )
    connection = sqlite3.connect(draft)
    try:
        connection.execute("DELETE FROM device")
        connection.commit()
        connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        connection.execute("PRAGMA journal_mode=DELETE")
    finally:
        connection.close()


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


def _made(path: Path) -> dt.datetime | None:
    """Return when a backup was made, by its name; None for a name that says no time."""
    try:
        return dt.datetime.strptime(path.stem.removeprefix("welotrope-"), "%Y%m%d-%H%M%S")
    except ValueError:
        return None


def holds(path: Path) -> tuple[tuple[str, int], ...]:
    """Return how many things of each kind a database holds, by their words; nothing for one that cannot be read."""
    connection = sqlite3.connect(f"file:{quoted(path)}?mode=ro", uri=True)
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
