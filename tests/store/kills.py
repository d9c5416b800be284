"""Killing a process in the middle of a migration, at the n-th statement it sends."""

import gzip
import os
import re
import signal
import sqlite3
from pathlib import Path

from sqlalchemy import event
from sqlalchemy.engine import Engine

from welotrope.store.session import DATABASE_NAME, Database

RELEASED = Path(__file__).parent / "released"
REVISIONS = tuple(sorted(path.name.removesuffix(".sql.gz") for path in RELEASED.glob("*.sql.gz")))


def released(revision, folder):
    """Write the database of a released revision into a folder; returns its counts of lenses, bodies and frames."""
    connection = sqlite3.connect(folder / DATABASE_NAME)
    written = gzip.decompress((RELEASED / f"{revision}.sql.gz").read_bytes()).decode()
    # Dumps write infinity as a bare word that SQL does not know.
    connection.executescript(re.sub(r"(?<=,)Inf(?=[,)])", "9e999", written))
    connection.commit()
    counts = counted(connection)
    connection.close()
    return counts


def counted(connection):
    return tuple(
        connection.execute(f"SELECT count(*) FROM {table}").fetchone()[0] for table in ("lens", "body", "frame")
    )


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
