"""The transactions of one request: undoable or not, all or nothing, in this process or in one for bulk changes."""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from starlette.requests import Request

from welotrope.core.errors import WelotropeError
from welotrope.interchange.worker_pool import BusyError, WorkerPool
from welotrope.store.errors import NotFoundError
from welotrope.store.queries import history
from welotrope.store.unit_of_work import UnitOfWork

MANY = 1000  # records, from which a change is made there
LARGE = 1_000_000  # characters of a change, likewise


def changed_in_bulk(request: Request, do: str, now: dt.datetime, **asked: object) -> int:
    """Let the process change something and return the key of the change, by which it can be undone.

    Raises
    ------
    NotFoundError, WelotropeError, BusyError
        As the change itself, or when it takes longer than it may: nothing was changed then.
    """
    pool: WorkerPool = request.app.state.bulk
    folder = str(request.app.state.database.folder.resolve())
    found = pool.ask({"do": do, "folder": folder, "now": now.isoformat(), **asked})
    if found is None:
        raise BusyError("That took longer than it may and was stopped. Nothing was changed; try again later.")
    if "missing" in found:
        raise NotFoundError(*found["missing"])
    if "error" in found:
        raise WelotropeError(*found["error"])
    return int(found["change"])


class Transactions:
    """Commits and rolls back what one request changes.

    ``change_id`` is the key of the last change that can be undone; ``on_end`` is called after every transaction,
    so that nothing read before it is used again.
    """

    def __init__(self, request: Request, uow: UnitOfWork, now: Callable[[], dt.datetime], on_end: Callable[[], None]):
        self._request, self._uow, self._now, self._on_end = request, uow, now, on_end
        self.change_id: int | None = None

    @contextmanager
    def plain(self) -> Iterator[None]:
        """Run a transaction that nobody would want to undo. This is the one place that commits."""
        try:
            yield
            self._uow.commit()
        except BaseException:
            self._uow.rollback()
            raise
        finally:
            self._on_end()

    @contextmanager
    def undoable(self, label: str) -> Iterator[None]:
        """Run a transaction that is recorded under a label, so that it can be undone."""
        with self.plain(), history.recorded(self._uow, label, self._now()) as key:
            yield
        self.change_id = key()

    def undo(self, id: int) -> None:
        """Undo a change; undoing is a change that can be undone itself."""
        if history.size_of(self._uow, id) > LARGE:
            self.in_bulk("undo", id=id)
            return
        with self.plain():
            self.change_id = history.undo_change(self._uow, id, self._now())

    def in_bulk(self, do: str, **asked: object) -> None:
        """Change thousands of records in another process, as :func:`changed_in_bulk`."""
        self.hand_over()
        try:
            self.change_id = changed_in_bulk(self._request, do, self._now(), **asked)
        finally:
            self._on_end()

    def hand_over(self) -> None:
        """End this request's transaction, so that another connection can write."""
        self._uow.rollback()
