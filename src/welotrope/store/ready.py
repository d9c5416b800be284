"""A backup or an archive that was checked in a folder of its own and waits there to be put in place of the database.

Checking takes as long as it takes, beside everything else; putting in place takes one transaction.
"""

from __future__ import annotations

import datetime as dt
import json
import shutil
import sqlite3
from collections.abc import Callable
from dataclasses import asdict, dataclass
from pathlib import Path

from welotrope.store import files
from welotrope.store.archive import ArchiveError, read_archive
from welotrope.store.backups import holds, sound_copy
from welotrope.store.session import DATABASE_NAME, Database, DatabaseUnusableError, copy_database

FOLDER, _ABOUT = "ready", "about.json"
Step = Callable[[int, int, str], None]


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
    place = folder / FOLDER
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
        about = json.loads((folder / FOLDER / _ABOUT).read_text(encoding="utf-8"))
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
    place = database.folder / FOLDER
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
    shutil.rmtree(folder / FOLDER, ignore_errors=True)
