"""The transactions of one request: undoable or not, all or nothing, in this process or in one for bulk changes."""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from starlette.requests import Request

from welotrope.store.queries import history
from welotrope.store.unit_of_work import UnitOfWork
from welotrope.web.request.bulk import LARGE, changed_in_bulk


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
