"""What was taken over from the field, by the key each entry was made with."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable

from sqlalchemy import func, select

from welotrope.store.models import ReceivedRow
from welotrope.store.unit_of_work import UnitOfWork

UNDONE = "undone"


def became(uow: UnitOfWork, keys: Iterable[str]) -> dict[str, str]:
    """Return what entries became that were taken over already."""
    rows = uow.sql.execute(select(ReceivedRow.key, ReceivedRow.became).where(ReceivedRow.key.in_(set(keys))))
    return {key: what for key, what in rows}


def remember(uow: UnitOfWork, key: str, at: dt.datetime, what: str) -> None:
    """Remember that an entry was taken over, and what it became."""
    uow.sql.add(ReceivedRow(key=key, at=at, became=what))
    uow.sql.flush()


def forget_frame(uow: UnitOfWork, key: str) -> None:
    """Remember that the frame an entry became was taken back."""
    row = uow.sql.get(ReceivedRow, key)
    if row is not None:
        row.became = UNDONE
        uow.sql.flush()


def latest(uow: UnitOfWork, whats: Iterable[str]) -> dict[str, dt.datetime]:
    """Return the time of the latest entry that became each of these, for those there are."""
    query = select(ReceivedRow.became, func.max(ReceivedRow.at)).where(ReceivedRow.became.in_(set(whats)))
    return {what: at for what, at in uow.sql.execute(query.group_by(ReceivedRow.became))}
