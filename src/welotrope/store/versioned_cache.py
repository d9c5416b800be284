"""A cache of values computed from the database, valid until any program commits to it."""

from __future__ import annotations

import sqlite3
from collections import OrderedDict
from collections.abc import Callable, Hashable
from pathlib import Path
from threading import Lock
from typing import Any, TypeVar

from welotrope.store.session import quoted

Value = TypeVar("Value")
MOST = 64


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
