"""Watching a folder that a camera writes into: each new picture is measured when it is whole.

A picture is whole when its size stays for a moment; one that cannot be read yet is tried again while it grows. A folder
that goes away, as a card or a wireless drive does, is waited for.
"""

from __future__ import annotations

import os
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

from welotrope.interchange.pictures.opened import PICTURE_SUFFIXES
from welotrope.store.outside import is_plain_name

LOOK_S, LONGEST_S = 0.25, 3 * 3600.0
MOST_FILES = 20_000

Stamp = tuple[int, int]  # size and time of change


@dataclass
class _State:
    known: dict[str, Stamp] = field(default_factory=dict)  # measured, or there before
    growing: dict[str, Stamp] = field(default_factory=dict)
    there: bool = True
    measured: int = 0
    problem: str = ""


class FolderWatch:
    """Watches one folder in a thread of its own, until it is stopped or three hours are over.

    Parameters
    ----------
    folder
        What is watched, not the folders below it.
    take
        What is done with a new picture.
    begin
        What is done beside, as soon as it looks.
    """

    def __init__(
        self, folder: Path, take: Callable[[Path], object], *, begin: Callable[[], object] | None = None
    ) -> None:
        self.folder = folder
        self._take = take
        self._state = _State(known=_stamps(folder) or {})
        self._stop = threading.Event()
        self._ends = time.monotonic() + LONGEST_S
        self._thread = threading.Thread(target=self._run, name="watch", daemon=True)
        self._thread.start()
        if begin is not None:
            threading.Thread(target=begin, name="watch begins", daemon=True).start()

    @property
    def watching(self) -> bool:
        """Whether it still looks."""
        return self._thread.is_alive() and not self._stop.is_set()

    @property
    def there(self) -> bool:
        """Whether the folder is there."""
        return self._state.there

    @property
    def measured(self) -> int:
        """How many pictures it took."""
        return self._state.measured

    @property
    def problem(self) -> str:
        """Why the last picture was not kept; empty when it was."""
        return self._state.problem

    def stop(self) -> None:
        """Stop looking; a picture that is being measured is finished."""
        self._stop.set()

    def _run(self) -> None:
        while not self._stop.wait(LOOK_S) and time.monotonic() < self._ends:
            self.look()

    def look(self) -> None:
        """Look once: what is new and has stopped growing is taken."""
        state, found = self._state, _stamps(self.folder)
        state.there = found is not None
        if found is None:
            return
        for name in sorted(found, key=lambda one: found[one][1]):
            stamp = found[name]
            if state.known.get(name) == stamp or not stamp[0]:
                continue
            if state.growing.get(name) != stamp:
                state.growing[name] = stamp
                continue
            state.growing.pop(name, None)
            state.known[name] = stamp
            if self._stop.is_set():
                return
            self._take_one(name)

    def _take_one(self, name: str) -> None:
        try:
            self._take(self.folder / name)
        except Exception as error:  # noqa: BLE001  whatever it is, the pictures after it are wanted
            self._state.problem = f"{name} could not be kept ({type(error).__name__}). Take it again."
        else:
            self._state.problem = ""
            self._state.measured += 1


def stop_watching(watches: dict[str, FolderWatch]) -> None:
    """Stop every watch: one camera is at work at a time."""
    for watch in watches.values():
        watch.stop()
    watches.clear()


def _stamps(folder: Path) -> dict[str, Stamp] | None:
    """Return size and time of each picture in a folder; None when it is not there."""
    found: dict[str, Stamp] = {}
    try:
        with os.scandir(folder) as entries:
            for entry in entries:
                if len(found) >= MOST_FILES:
                    break
                if Path(entry.name).suffix.lower() not in PICTURE_SUFFIXES or entry.name.startswith("."):
                    continue
                if not is_plain_name(entry.name) or entry.is_symlink() or not entry.is_file():
                    continue
                seen = entry.stat()
                found[entry.name] = (seen.st_size, seen.st_mtime_ns)
    except OSError:
        return None
    return found
