"""Film rolls."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from sqlalchemy import func, select

from welotrope.core.review.frame import Frame
from welotrope.core.review.roll import Roll, frame_order, spread_times
from welotrope.store.models import FrameRow, RollRow
from welotrope.store.queries.log import frame_of, put_words
from welotrope.store.rows import document, fetch, from_json
from welotrope.store.unit_of_work import UnitOfWork


@dataclass(frozen=True)
class StoredRoll:
    """A roll with its key and the number of its frames."""

    id: int
    roll: Roll
    frames: int = 0


def list_rolls(uow: UnitOfWork) -> list[StoredRoll]:
    """Return every roll, the newest first."""
    query = (
        select(RollRow, func.count(FrameRow.id)).outerjoin(FrameRow, FrameRow.roll_id == RollRow.id)
        .group_by(RollRow.id).order_by(RollRow.id.desc())
    )  # fmt: skip
    return [StoredRoll(row.id, roll_of(row), count) for row, count in uow.sql.execute(query)]


def roll_names(uow: UnitOfWork) -> dict[int, Roll]:
    """Return every roll by its key, the newest first, without looking at their frames."""
    return {row.id: roll_of(row) for row in uow.sql.scalars(select(RollRow).order_by(RollRow.id.desc()))}


def get_roll(uow: UnitOfWork, id: int) -> StoredRoll:
    """Return a roll; raises NotFoundError."""
    row = fetch(uow, RollRow, "roll", id)
    count = uow.sql.scalar(select(func.count()).select_from(FrameRow).where(FrameRow.roll_id == id))
    return StoredRoll(row.id, roll_of(row), count or 0)


def save_roll(uow: UnitOfWork, roll: Roll, *, id: int | None = None) -> int:
    """Store a roll, over the one of its key when it has one; returns its key."""
    if id is None:
        row = RollRow(name=roll.name, data=document(roll, ("name",)))
        uow.sql.add(row)
    else:
        row = fetch(uow, RollRow, "roll", id)
        row.name, row.data = roll.name, document(roll, ("name",))
    uow.sql.flush()
    for frame in uow.sql.scalars(select(FrameRow).where(FrameRow.roll_id == row.id)):
        put_words(frame, roll.name)
    uow.sql.flush()
    return row.id


def delete_roll(uow: UnitOfWork, id: int) -> None:
    """Delete a roll; its frames stay, on no roll."""
    row = fetch(uow, RollRow, "roll", id)
    for frame in uow.sql.scalars(select(FrameRow).where(FrameRow.roll_id == id)):
        frame.roll_id = None
        put_words(frame, "")
    uow.sql.flush()
    uow.sql.delete(row)
    uow.sql.flush()


def frames_on(uow: UnitOfWork, id: int) -> list[Frame]:
    """Return the frames of a roll in the order of their numbers."""
    return [frame_of(row) for row in _rows(uow, id)]


def date_frames(uow: UnitOfWork, id: int, first: dt.datetime, last: dt.datetime) -> int:
    """Spread the frames of a roll over a time, in the order of their numbers; returns how many.

    Raises
    ------
    OutOfRangeError
        When the last comes before the first.
    """
    rows = _rows(uow, id)
    for row, moment in zip(rows, spread_times(len(rows), first, last), strict=True):
        row.taken_at, row.undated = moment, False
    uow.sql.flush()
    return len(rows)


def _rows(uow: UnitOfWork, id: int) -> list[FrameRow]:
    rows = uow.sql.scalars(select(FrameRow).where(FrameRow.roll_id == id))
    return sorted(rows, key=lambda row: (*frame_order(row.film_frame), row.taken_at, row.id))


def roll_of(row: RollRow) -> Roll:
    """Return the value of a row; raises ValueError or its like when the row makes no sense."""
    return from_json(Roll, {**row.data, "name": row.name})
