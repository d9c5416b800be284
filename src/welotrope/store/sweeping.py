"""Once a day kept files are deleted that no record, no undo and no backup refers to."""

from __future__ import annotations

import datetime as dt

from welotrope.store.backups import files_named
from welotrope.store.queries.files import sweep_files
from welotrope.store.session import Database

MARK = ".files-swept"


def sweep_daily(database: Database, now: dt.datetime) -> int:
    """Delete the files that nothing refers to, unless that was done today; returns how many.

    While a backup cannot be read, nothing is deleted: it could need any of them.
    """
    mark, today = database.folder / MARK, now.date().isoformat()
    if mark.exists() and mark.read_text(encoding="ascii", errors="replace") == today:
        return 0
    named = files_named(database.folder)
    if named is None:
        return 0
    with database.session() as uow:
        gone = sweep_files(uow, named)
        # Within the transaction, so that nobody keeps the same bytes anew in between; no record refers to them.
        for path in gone:
            path.unlink(missing_ok=True)
        uow.commit()
    mark.write_text(today, encoding="ascii")
    return len(gone)
