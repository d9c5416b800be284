"""Changes of thousands of records, made by a process of their own within the turn of the request."""

from __future__ import annotations

import datetime as dt

from starlette.requests import Request

from welotrope.core.errors import WelotropeError
from welotrope.interchange.worker_pool import BusyError, WorkerPool
from welotrope.store.errors import NotFoundError

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
