"""Requests that take long: a few at once, some waiting, the rest asked to come again; none in a write transaction."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from contextlib import contextmanager

from welotrope.interchange.worker_pool import BusyError

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
