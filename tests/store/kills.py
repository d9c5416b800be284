"""Killing a process in the middle of a migration, at the n-th statement it sends."""

import os
import signal

from sqlalchemy import event
from sqlalchemy.engine import Engine

from welotrope.store.session import Database


def killed_at(folder, statement):
    """Open a database in a child that is killed as it sends its n-th statement; returns whether it was."""
    child = os.fork()
    if child == 0:
        seen = [0]

        def count(*_args):
            seen[0] += 1
            if seen[0] == statement:
                os.kill(os.getpid(), signal.SIGKILL)

        event.listen(Engine, "before_cursor_execute", count)
        try:
            Database(folder).close()
        finally:
            os._exit(0)
    _, status = os.waitpid(child, 0)
    return os.WIFSIGNALED(status)
