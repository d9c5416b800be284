"""Requests that take long: a few at once, some waiting; and large files written by a process of their own."""

from __future__ import annotations

import tempfile
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from starlette.background import BackgroundTask
from starlette.exceptions import HTTPException
from starlette.requests import Request
from starlette.responses import FileResponse, Response

from welotrope.interchange.worker_pool import BusyError, WorkerPool

AT_ONCE, MOST_WAITING, MOST_WAIT_S = 2, 6, 20.0


class Turnstile:
    """Lets so many in at once and so many wait, for so long."""

    def __init__(self, *, at_once: int = AT_ONCE, waiting: int = MOST_WAITING, wait_s: float = MOST_WAIT_S) -> None:
        self._room = threading.BoundedSemaphore(at_once + waiting)
        self._inside = threading.BoundedSemaphore(at_once)
        self._wait_s = wait_s

    @contextmanager
    def enter(self) -> Iterator[None]:
        """Wait for a place and hold it; raises BusyError when there is none."""
        if not self._room.acquire(blocking=False):
            raise BusyError("Too much is being made at once. Wait until one of them has come, and try again.")
        try:
            if not self._inside.acquire(timeout=self._wait_s):
                raise BusyError("What is being made takes long. Wait until it has come, and try again.")
            try:
                yield
            finally:
                self._inside.release()
        finally:
            self._room.release()


def exported(request: Request, do: str, name: str, media_type: str, **asked: object) -> Response:
    """Let the export process write a file and send it; it is gone afterwards.

    Raises
    ------
    BusyError
        When too many wait, or it takes longer than it may.
    OSError, HTTPException
        When the disk refuses, or what is asked for is not there.
    """
    pool: WorkerPool = request.app.state.exports
    held = tempfile.TemporaryDirectory()
    try:
        target = Path(held.name) / name
        folder = str(request.app.state.database.folder.resolve())
        found = pool.ask({"do": do, "folder": folder, "to": str(target), **asked})
        if found is None:
            raise BusyError("That took longer than it may and was stopped. Try again when less is going on.")
        if "missing" in found:
            raise HTTPException(404, found["missing"])
        if "error" in found:
            raise OSError(found["errno"], found["error"])
    except BaseException:
        held.cleanup()
        raise
    return FileResponse(target, media_type=media_type, filename=name, background=BackgroundTask(held.cleanup))
