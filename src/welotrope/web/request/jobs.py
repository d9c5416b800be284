"""Long work beside the requests: one piece at a time, with progress, and a state that outlives a crash.

A piece of work is given a :class:`Progress`; it tells how far it is, and is stopped there when it was cancelled. What
it changes in the database it changes in transactions of its own, like a request.
"""

from __future__ import annotations

import datetime as dt
import threading
from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor, wait
from contextlib import contextmanager
from dataclasses import replace

from welotrope.core.errors import WelotropeError
from welotrope.interchange.pictures.workers import PictureError
from welotrope.store.queries import jobs
from welotrope.store.queries.jobs import Job, JobState
from welotrope.store.session import Database
from welotrope.store.unit_of_work import UnitOfWork

_LONGEST_NOTE = 200
STOP_S = 1.0


class CancelledError(Exception):
    """The work was cancelled."""


class Progress:
    """What a piece of work tells of itself."""

    def __init__(self, cancelled: threading.Event) -> None:
        self._cancelled = cancelled
        self.told = (0, 0, "")

    def step(self, done: int, total: int, note: str = "") -> None:
        """Tell how far it is; raises CancelledError when it was cancelled meanwhile."""
        if self._cancelled.is_set():
            raise CancelledError
        self.told = (done, total, note[:_LONGEST_NOTE])


@contextmanager
def turn(database: Database) -> Iterator[UnitOfWork]:
    """Run work in one transaction: committed at the end, rolled back on an error."""
    with database.session() as uow:
        yield uow
        uow.commit()


Work = Callable[[Progress], str]  # returns the path that leads to its result, or ''


class JobRunner:
    """Runs pieces of work one after the other in a thread of their own."""

    def __init__(self, database: Database, now: Callable[[], dt.datetime]) -> None:
        self._database, self._now = database, now
        self._pool = ThreadPoolExecutor(1, thread_name_prefix="job")
        self._cancelled: dict[int, threading.Event] = {}
        self._running: dict[int, Future[None]] = {}
        self._titles: dict[int, str] = {}
        self._progress: dict[int, Progress] = {}

    def recover(self) -> None:
        """Mark what an earlier run left unfinished."""
        with self._database.session() as uow:
            if jobs.cut_off(uow, self._now()):
                uow.commit()

    def start(self, title: str, work: Work) -> int:
        """Queue a piece of work; returns its key."""
        with turn(self._database) as uow:
            id = jobs.add_job(uow, title, self._now())
        self._cancelled[id], self._titles[id] = threading.Event(), title
        running = self._running[id] = self._pool.submit(self._run, id, work)
        running.add_done_callback(lambda _done: self._running.pop(id, None))
        return id

    def as_it_is(self, job: Job) -> Job:
        """Return a piece of work with how far it is now: that is told here only, so that nothing need be stored."""
        progress = self._progress.get(job.id)
        if job.state.over:
            return job
        if progress is None:
            before = next((title for id, title in self._titles.items() if id in self._progress), "")
            return (
                replace(job, note=f"it waits until “{before}” is done; one piece is worked on at a time")
                if before
                else job
            )
        done, total, note = progress.told
        return replace(job, state=JobState.RUNNING, done=done, total=total, note=note)

    def cancel(self, id: int) -> None:
        """Ask a piece of work to stop at its next step; one that is over stays as it is."""
        if id in self._cancelled:
            self._cancelled[id].set()

    def close(self) -> None:
        """Stop everything: what runs has a second to come to its next step, what waits is not begun."""
        for event in list(self._cancelled.values()):
            event.set()
        self._pool.shutdown(wait=False, cancel_futures=True)
        wait(list(self._running.values()), STOP_S)
        self.recover()

    def _run(self, id: int, work: Work) -> None:
        progress = self._progress[id] = Progress(self._cancelled[id])
        state, note, leads_to = JobState.DONE, "", ""
        try:
            progress.step(0, 0)
            leads_to = work(progress)
        except CancelledError:
            state, note = JobState.CANCELLED, "It was stopped; what it had not finished was dropped."
        except (WelotropeError, PictureError) as error:
            state, note = JobState.FAILED, error.sentence
        except Exception as error:  # noqa: BLE001  whatever it is, the page must not wait for ever
            state, note = JobState.FAILED, f"It failed inside ({type(error).__name__}). Nothing else was touched."
        done, total, _ = progress.told
        with turn(self._database) as uow:
            jobs.finish(uow, id, state, note, leads_to, self._now(), far=(done, total))
        for kept in (self._progress, self._cancelled, self._titles):
            kept.pop(id, None)
