"""One server at a time on a data folder: the lock goes with the process, however that ends."""

from __future__ import annotations

import os
import sys
from pathlib import Path

from welotrope.store.session import DatabaseUnusableError

LOCK_NAME = ".in-use"


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
