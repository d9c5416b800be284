"""Everything of a data folder as one ZIP, and back: tables as lines of JSON, files by their hash.

``docs/archive.md`` describes it. The undo journal, the jobs, the paired devices and what was written beside pictures
stay behind. An archive of an older schema is read into a database of that schema, which is then brought up to date like
any other. Nothing in it is trusted: every record is read and checked before anything is stored, files lie where their
hash says, and pictures point to no folder of this computer until that is named here.
"""

from __future__ import annotations

import datetime as dt
import json
import math
import os
import re
import shutil
import sqlite3
import tempfile
import zipfile
import zlib
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path

from welotrope.core.units.text import cleaned
from welotrope.store import files, outside
from welotrope.store.record_check import MOST_NAMED, check_records
from welotrope.store.session import DATABASE_NAME, HEAD_REVISION, Database, DatabaseUnusableError, migrate

FORMAT, VERSION = "welotrope-archive", 1
MAX_BYTES, MAX_ENTRIES, MAX_LINE = 8_000_000_000, 200_000, 4_000_000
_LEFT_OUT = {"journal", "job", "device", "sidecar", "alembic_version", "sqlite_sequence", "frame_count"}
# What the database keeps by itself: it comes with the rows it is made from.
_MADE_AGAIN = ("sqlite_", "frame_words")
_MANIFEST = "manifest.json"
_ENTRY = re.compile(r"tables/[a-z_]{1,40}\.jsonl|files/[0-9a-f]{2}/[0-9a-f]{64}\.[a-z]{3,4}")
_KNOWN_REVISIONS = {f"{number:04d}" for number in range(1, int(HEAD_REVISION) + 1)}
_CURE = "Correct that where the archive was made, and make it again."
_PROGRESS_EVERY = 1000
_READABLE, _ENCRYPTED = (zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED), 0x1
Step = Callable[[int, int, str], None]


class ArchiveError(Exception):
    """An archive that cannot be taken, in a sentence; nothing was stored."""


@dataclass(frozen=True, kw_only=True)
class Manifest:
    """What an archive says of itself: schema revision, when it was made, rows by table, and files it has not got."""

    schema: str
    made: str
    counts: dict[str, int]
    missing: frozenset[str] = frozenset()


def _no_step(_done: int, _of: int, _what: str) -> None:
    pass


def write_archive(database: Database, target: Path, made: dt.datetime, *, step: Step = _no_step) -> Manifest:
    """Write an archive of a consistent copy; ``target`` must not exist.

    Raises
    ------
    FileExistsError, OSError
        When the target is there or cannot be written; nothing is left behind.
    """
    if target.exists():
        raise FileExistsError(f"{target} exists already; name another file")
    target.parent.mkdir(parents=True, exist_ok=True)
    draft = target.with_name(f".{target.name}.{os.getpid()}.part")
    with tempfile.TemporaryDirectory() as folder:
        copy = database.backup(Path(folder) / DATABASE_NAME)
        connection = sqlite3.connect(copy)
        try:
            with zipfile.ZipFile(draft, "w", zipfile.ZIP_DEFLATED) as archive:
                manifest = _write_into(archive, connection, database.folder, made, step)
            os.replace(draft, target)
        finally:
            connection.close()
            draft.unlink(missing_ok=True)
    return manifest


def _write_into(
    archive: zipfile.ZipFile, connection: sqlite3.Connection, folder: Path, made: dt.datetime, step: Step
) -> Manifest:
    names = _tables(connection)
    total = sum(connection.execute(f'SELECT count(*) FROM "{name}"').fetchone()[0] for name in names)
    counts: dict[str, int] = {}
    done = 0
    for name in names:
        cursor = connection.execute(f'SELECT * FROM "{name}" ORDER BY 1')
        columns = [one[0] for one in cursor.description]
        with archive.open(f"tables/{name}.jsonl", "w") as file:
            for row in cursor:
                line = {column: _written(value) for column, value in zip(columns, row, strict=True)}
                file.write((json.dumps(line, ensure_ascii=False, allow_nan=False) + "\n").encode())
                counts[name] = counts.get(name, 0) + 1
                done += 1
                if done % _PROGRESS_EVERY == 0:
                    step(done, total, f"writing {name}")
        counts.setdefault(name, 0)
    missing = []
    for sha256, media_type in connection.execute("SELECT sha256, media_type FROM file").fetchall():
        path = files.path_of(sha256, media_type)
        if (folder / path).is_file() and not (folder / path).is_symlink():
            archive.write(folder / path, path)
        else:
            missing.append(sha256)
    revision = connection.execute("SELECT version_num FROM alembic_version").fetchone()[0]
    says = {"format": FORMAT, "version": VERSION, "schema": revision, "made": made.isoformat(), "counts": counts}
    says["missing"] = missing
    archive.writestr(_MANIFEST, json.dumps(says, indent=2))
    step(total, total, "done")
    return Manifest(schema=revision, made=made.isoformat(), counts=counts, missing=frozenset(missing))


def _tables(connection: sqlite3.Connection) -> list[str]:
    rows = connection.execute("SELECT name FROM sqlite_master WHERE type = 'table' ORDER BY name").fetchall()
    return [name for (name,) in rows if name not in _LEFT_OUT and not name.startswith(_MADE_AGAIN)]


def _written(value: object) -> object:
    """Return a column's value for JSON; infinity, which JSON has no word for, as an object of its own."""
    if isinstance(value, float) and math.isinf(value):
        return {"real": "inf" if value > 0 else "-inf"}
    return value


def _read(value: object) -> object:
    return float(value["real"]) if isinstance(value, dict) and set(value) == {"real"} else value


def check_archive(path: Path) -> Manifest:
    """Return what an archive says of itself, when it can be taken.

    Raises
    ------
    ArchiveError
        When it is no archive, of a newer Welotrope, too large, or holds what does not belong.
    """
    try:
        with zipfile.ZipFile(path) as archive:
            return _checked(archive, path)
    # The last is for a ZIP version of the future.
    except (zipfile.BadZipFile, zlib.error, EOFError, RuntimeError) as error:
        raise ArchiveError(
            f"{path.name} is no archive, or only a part of one ({error}). Choose a whole one."
        ) from error
    except OSError as error:
        raise ArchiveError(f"{path} cannot be read ({error}). Name a file that can.") from error


def _checked(archive: zipfile.ZipFile, path: Path) -> Manifest:
    entries = archive.infolist()
    if len(entries) > MAX_ENTRIES or sum(entry.file_size for entry in entries) > MAX_BYTES:
        raise ArchiveError(f"{path.name} would unpack to more than any data folder holds; it was not opened.")
    names = [entry.filename for entry in entries]
    if _MANIFEST not in names:
        raise ArchiveError(f"{path.name} is no archive of Welotrope: it has no {_MANIFEST}.")
    unreadable = [entry for entry in entries if entry.compress_type not in _READABLE or entry.flag_bits & _ENCRYPTED]
    if unreadable:
        raise ArchiveError(f"{path.name} is encrypted or packed in a way this program does not read.")
    strange = [name for name in names if name != _MANIFEST and not _ENTRY.fullmatch(name)]
    if strange or len(set(names)) != len(names):
        raise ArchiveError(f"{path.name} holds what does not belong in an archive: {', '.join(strange)[:80]}.")
    try:
        with archive.open(_MANIFEST) as file:
            says = json.loads(file.read(MAX_LINE))
        found = Manifest(
            schema=str(says["schema"]), made=str(says["made"]), counts=_counts(says["counts"]),
            missing=frozenset(str(one) for one in says.get("missing", [])),
        )  # fmt: skip
        known = says["format"] == FORMAT
        version = int(says["version"])
    except (ValueError, KeyError, TypeError, AttributeError, OverflowError, RecursionError) as error:
        raise ArchiveError(f"The {_MANIFEST} of {path.name} cannot be read ({error}). {_CURE}") from error
    if not known or not re.fullmatch(r"\d{4}", found.schema) or found.schema == "0000":
        raise ArchiveError(f"{path.name} is no archive of Welotrope.")
    if version > VERSION or found.schema not in _KNOWN_REVISIONS:
        raise ArchiveError(f"{path.name} was written by a newer Welotrope. Install that version to read it.")
    return found


def _counts(says: Mapping[str, int]) -> dict[str, int]:
    """Return the rows by table as announced; raises ValueError for what is no number of rows."""
    found = dict(says)
    for table, count in found.items():
        if type(count) is not int or not 0 <= count < 2**40:
            raise ValueError(f"counts, {str(table)[:40]}: read “{str(count)[:20]}”; that is no number of records")
    return found


def read_archive(path: Path, folder: Path, *, step: Step = _no_step) -> Manifest:
    """Read an archive into a data folder that holds no database yet: all of it or nothing.

    Raises
    ------
    ArchiveError
        When it cannot be taken, with a sentence for each record that is broken, or the folder holds data already.
    """
    manifest = check_archive(path)
    if (folder / DATABASE_NAME).exists():
        raise ArchiveError(f"{folder} holds data already. Name an empty folder, or move that database away first.")
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    with tempfile.TemporaryDirectory(dir=folder, prefix=".import-") as name:
        draft = Path(name) / DATABASE_NAME
        migrate(draft, revision=manifest.schema)
        try:
            with zipfile.ZipFile(path) as archive:
                problems = _fill(draft, archive, manifest, step)
                if problems:
                    raise ArchiveError(f"Nothing was stored. {' '.join(problems)} {_CURE}")
                _unpack_files(archive, Path(name))
        except (zipfile.BadZipFile, zlib.error, EOFError) as error:
            raise ArchiveError(f"Nothing was stored: {path.name} is damaged ({error}). Choose a whole one.") from error
        _bring_up_to_date(Path(name))
        problems = check_records(draft) or _missing_files(draft, manifest.missing)
        if problems:
            raise ArchiveError(f"Nothing was stored. {' '.join(problems[:MOST_NAMED])} {_CURE}")
        _let_go_of_this_computer(draft)
        if (Path(name) / files.FOLDER).exists():
            shutil.copytree(Path(name) / files.FOLDER, folder / files.FOLDER, dirs_exist_ok=True)
        outside.add_named(folder, [])
        os.replace(draft, folder / DATABASE_NAME)
    return manifest


def _bring_up_to_date(folder: Path) -> None:
    try:
        Database(folder).close()
    except DatabaseUnusableError as error:
        raise ArchiveError(f"Nothing was stored: {error}") from error
    except Exception as error:  # a migration may fall over anything that a record holds
        kind = type(error).__name__
        raise ArchiveError(f"Nothing was stored: a record cannot be brought up to date ({kind}). {_CURE}") from error


def _missing_files(draft: Path, announced: frozenset[str]) -> list[str]:
    """Return a sentence for each file that is recorded and neither there nor said to be missing."""
    connection = sqlite3.connect(draft)
    try:
        recorded = connection.execute("SELECT sha256, media_type FROM file").fetchall()
    finally:
        connection.close()
    return [
        f"file, record {sha256[:12]}, sha256: the archive lacks that file."
        for sha256, media_type in recorded
        if sha256 not in announced and not (draft.parent / files.path_of(sha256, media_type)).is_file()
    ]


def _let_go_of_this_computer(draft: Path) -> None:
    """Take away what points to places of the computer an archive was made on."""
    connection = sqlite3.connect(draft)
    try:
        connection.execute("UPDATE picture SET folder = ''")
        connection.execute("DELETE FROM sidecar")
        for sha256, media_type in connection.execute("SELECT sha256, media_type FROM file").fetchall():
            path = files.path_of(sha256, media_type)
            connection.execute("UPDATE file SET path = ? WHERE sha256 = ?", (path, sha256))
        connection.commit()
    finally:
        connection.close()


def _fill(draft: Path, archive: zipfile.ZipFile, manifest: Manifest, step: Step) -> list[str]:
    """Put every line into its table; returns a sentence for each that does not go in, at most twenty."""
    connection = sqlite3.connect(draft)
    problems: list[str] = []
    total, done = sum(manifest.counts.values()), 0
    try:
        connection.execute("PRAGMA foreign_keys=0")
        for name in _tables(connection):
            known = {row[1] for row in connection.execute(f'PRAGMA table_info("{name}")')}
            connection.execute(f'DELETE FROM "{name}"')
            count = 0
            for number, line in _lines(archive, f"tables/{name}.jsonl"):
                count += 1
                done += 1
                try:
                    row = {key: _read(value) for key, value in json.loads(line).items()}
                    if not set(row) <= known:
                        raise ValueError(f"it has no column {', '.join(sorted(set(row) - known))[:60]}")
                    marks = ", ".join("?" * len(row))
                    columns = ", ".join(f'"{key}"' for key in row)
                    connection.execute(f'INSERT INTO "{name}" ({columns}) VALUES ({marks})', tuple(row.values()))
                except (ValueError, TypeError, AttributeError, OverflowError, RecursionError, sqlite3.Error) as error:
                    problems.append(f"{name}, line {number}: {cleaned(str(error))[:120]}.")
                    if len(problems) >= MOST_NAMED:
                        return problems
                if done % _PROGRESS_EVERY == 0:
                    step(done, total, f"reading {name}")
            if count != manifest.counts.get(name, 0):
                problems.append(f"{name}: {manifest.counts.get(name, 0)} records are announced, {count} are there.")
        missing = connection.execute("PRAGMA foreign_key_check").fetchmany(MOST_NAMED)
        problems += [
            f"{table}, record {row}: what it refers to in {parent} is not there." for table, row, parent, _ in missing
        ]
        connection.commit()
    finally:
        connection.close()
    return problems


def _lines(archive: zipfile.ZipFile, name: str) -> Iterator[tuple[int, bytes]]:
    if name not in archive.namelist():
        return
    with archive.open(name) as file:
        for number in range(1, 100_000_000):
            line = file.readline(MAX_LINE)
            if not line:
                return
            yield number, line


def _unpack_files(archive: zipfile.ZipFile, folder: Path) -> None:
    """Write the files; one whose bytes are not those of its name is refused."""
    for entry in archive.infolist():
        if not entry.filename.startswith("files/"):
            continue
        data = archive.read(entry)
        if files.hash_of(data) != Path(entry.filename).stem:
            raise ArchiveError(f"Nothing was stored: the file {entry.filename[:40]} is not what it was.")
        files.write(folder, entry.filename, data)
