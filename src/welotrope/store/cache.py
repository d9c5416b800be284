"""Files that can be made again, kept while there is room; and values computed from the database."""

from __future__ import annotations

import os
import shutil
import sqlite3
from collections import OrderedDict
from collections.abc import Callable, Hashable
from pathlib import Path
from threading import Lock
from typing import Any, TypeVar

from welotrope.store.session import quoted

FOLDER, INCOMING = "cache", "incoming"
MOST_FILES, MOST_BATCHES = 60, 30
MOST = 64


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


Value = TypeVar("Value")


class VersionedCache:
    """Values by key, of one version of the database; all are dropped when there is a newer one.

    They are handed to many requests: nobody may change them.
    """

    def __init__(self, path: Path) -> None:
        # A connection of its own that never writes: it is told of every commit of all the others.
        self._watch = sqlite3.connect(f"file:{quoted(path)}?mode=ro", uri=True, check_same_thread=False)
        self._lock = Lock()
        self._version = -1
        self._values: OrderedDict[Hashable, Any] = OrderedDict()

    def version(self) -> int:
        """Return a number that is another after every commit; to be read before what is kept under it."""
        with self._lock:
            return int(self._watch.execute("PRAGMA data_version").fetchone()[0])

    def get(self, version: int, what: Hashable, make: Callable[[], Value]) -> Value:
        """Return the value of that version, made when it is not there."""
        with self._lock:
            if version > self._version:
                self._version = version
                self._values.clear()
            if version == self._version and what in self._values:
                self._values.move_to_end(what)
                found: Value = self._values[what]
                return found
        made = make()
        with self._lock:
            if version == self._version:
                self._values[what] = made
                if len(self._values) > MOST:
                    self._values.popitem(last=False)
        return made

    def close(self) -> None:
        """Close the connection."""
        self._watch.close()
