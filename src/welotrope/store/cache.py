"""Files that can be made again, under the data folder: kept while there is room for them, the oldest going first."""

from __future__ import annotations

import os
import shutil
from pathlib import Path

FOLDER, INCOMING = "cache", "incoming"
MOST_FILES, MOST_BATCHES = 60, 30


class TooManyBatchesError(Exception):
    """Too many batches came in and were never brought in."""


def cached(folder: Path, name: str) -> Path:
    """Return where a file of that name lies in the cache of a data folder, which is made when missing."""
    place = folder / FOLDER
    place.mkdir(parents=True, exist_ok=True, mode=0o700)
    return place / name


def incoming(folder: Path, batch: str) -> Path:
    """Return the folder that files of a batch come into, which is made when missing; raises TooManyBatchesError."""
    place = folder / INCOMING / batch
    if not place.exists() and (folder / INCOMING).exists() and len(os.listdir(folder / INCOMING)) >= MOST_BATCHES:
        raise TooManyBatchesError
    place.mkdir(parents=True, exist_ok=True, mode=0o700)
    return place


def touch(path: Path) -> None:
    """Note that a file of the cache was used."""
    os.utime(path)


def trim(folder: Path, *, most: int = MOST_FILES) -> None:
    """Let go of the files of the cache that were used longest ago."""
    place = folder / FOLDER
    if not place.is_dir():
        return
    newest_first = sorted(place.iterdir(), key=lambda path: path.stat().st_mtime, reverse=True)
    for path in newest_first[most:]:
        path.unlink(missing_ok=True)


_LEFTOVERS = (
    "*.part", ".*.part", ".import-*", ".restore-*", f"{FOLDER}/*.part", "exports/.*.part", "backups/.*.part",
    "files/*/.*.part",
)  # fmt: skip


def clear_leftovers(folder: Path) -> None:
    """Let go of what was half written when a program ended: nothing refers to it."""
    for pattern in _LEFTOVERS:
        for path in folder.glob(pattern):
            if path.is_dir() and not path.is_symlink():
                shutil.rmtree(path, ignore_errors=True)
            else:
                path.unlink(missing_ok=True)


def clear_incoming(folder: Path) -> None:
    """Let go of what came in and was never brought in: what a program that is no more left behind."""
    shutil.rmtree(folder / INCOMING, ignore_errors=True)
