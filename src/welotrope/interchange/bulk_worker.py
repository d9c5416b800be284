"""The process that changes thousands of records as one: deletes an outing, takes a large change back.

In the application's own process this would keep every page waiting for the interpreter, though not for the database.
"""

from __future__ import annotations

import datetime as dt
from pathlib import Path

from welotrope.core.errors import WelotropeError
from welotrope.core.json_values import JsonObject
from welotrope.interchange.worker_pool import serve
from welotrope.store.errors import NotFoundError
from welotrope.store.queries import history, log
from welotrope.store.session import changing
from welotrope.store.unit_of_work import UnitOfWork

MEMORY = 3 * 1024**3


def delete_outing(uow: UnitOfWork, asked: JsonObject, now: dt.datetime) -> int:
    """Delete an outing with its frames, and return the key of the change."""
    with history.recorded(uow, asked["label"], now) as key:
        log.delete_outing(uow, asked["id"])
    return key()


def undo(uow: UnitOfWork, asked: JsonObject, now: dt.datetime) -> int:
    """Take a change back, and return the key of the change that would undo that."""
    return history.undo_change(uow, asked["id"], now)


WORK = {"delete outing": delete_outing, "undo": undo}


def answer(asked: JsonObject) -> JsonObject:
    """Change what is asked for, all of it or nothing, or return why not."""
    try:
        with changing(Path(asked["folder"])) as uow:
            return {"change": WORK[asked["do"]](uow, asked, dt.datetime.fromisoformat(asked["now"]))}
    except NotFoundError as error:
        return {"missing": [error.kind, error.id]}
    except WelotropeError as error:
        return {"error": [error.field, error.read, error.problem, error.works]}


if __name__ == "__main__":
    serve(answer, memory=MEMORY)
