"""What a query can fail with."""

from __future__ import annotations

import errno

from sqlalchemy.exc import OperationalError as DatabaseOperationError

__all__ = ["DISK_FULL", "BrokenRecordError", "DatabaseOperationError", "NotFoundError", "is_busy", "is_disk_full"]

DISK_FULL = {errno.ENOSPC, errno.EDQUOT}


def is_disk_full(error: BaseException) -> bool:
    """Whether something failed for want of room, in a file or in the database."""
    if isinstance(error, OSError):
        return error.errno in DISK_FULL
    return isinstance(error, DatabaseOperationError) and "disk is full" in str(error)


def is_busy(error: BaseException) -> bool:
    """Whether something failed because another change would not end."""
    return isinstance(error, DatabaseOperationError) and "locked" in str(error)


class BrokenRecordError(Exception):
    """What is stored of a thing cannot be read; says why, and what can be done."""

    def __init__(self, kind: str, why: str) -> None:
        super().__init__(f"This {kind} cannot be read. {why} Delete it on the Kit page, or put a backup in its place.")


class NotFoundError(LookupError):
    """There is no such record; it may have been deleted."""

    def __init__(self, kind: str, id: int) -> None:
        self.kind, self.id = kind, id
        super().__init__(f"There is no {kind} number {id}. It may have been deleted: look under Undo in the Kit room.")
