"""Outings and logged frames."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator

from sqlalchemy import func, select

from welotrope.core.review.frame import Frame, NewFrame, Outing
from welotrope.core.review.outcomes import Outcome
from welotrope.store.book import Book
from welotrope.store.models import FrameRow, OutingRow
from welotrope.store.rows import fetch

_FIELDS = tuple(NewFrame.__dataclass_fields__)


def list_outings(book: Book) -> list[Outing]:
    """All outings, newest first."""
    count = func.count(FrameRow.id)
    query = (
        select(OutingRow.id, OutingRow.name, OutingRow.day, count)
        .outerjoin(FrameRow, FrameRow.outing_id == OutingRow.id)
        .group_by(OutingRow.id)
        .order_by(OutingRow.day.desc(), OutingRow.id.desc())
    )
    return [Outing(*row) for row in book.sql.execute(query)]


def add_outing(book: Book, name: str, day: dt.date) -> int:
    """Store an outing and return its key."""
    row = OutingRow(name=name, day=day)
    book.sql.add(row)
    book.sql.flush()
    return row.id


def change_outing(book: Book, id: int, name: str, day: dt.date) -> None:
    """Rename or re-date an outing."""
    row = fetch(book, OutingRow, "outing", id)
    row.name, row.day = name, day
    book.sql.flush()


def delete_outing(book: Book, id: int) -> None:
    """Delete an outing with its frames."""
    book.sql.delete(fetch(book, OutingRow, "outing", id))
    book.sql.flush()


def outing_for(book: Book, day: dt.date) -> int:
    """Return the newest outing of a day, made when there is none."""
    newest = select(OutingRow.id).where(OutingRow.day == day).order_by(OutingRow.id.desc()).limit(1)
    found = book.sql.scalar(newest)
    return found if found is not None else add_outing(book, f"Outing of {day:%-d %B %Y}", day)


def add_frame(book: Book, outing_id: int, frame: NewFrame, outcome: Outcome | None = None) -> int:
    """Store a frame and return its key."""
    fetch(book, OutingRow, "outing", outing_id)
    row = FrameRow(outing_id=outing_id, outcome=outcome, **{field: getattr(frame, field) for field in _FIELDS})
    book.sql.add(row)
    book.sql.flush()
    return row.id


def get_frame(book: Book, id: int) -> Frame:
    """Return a frame; raises NotFoundError."""
    return _frame(fetch(book, FrameRow, "frame", id))


def mark_frame(book: Book, id: int, outcome: Outcome | None) -> None:
    """Record what a frame showed; None takes the mark off."""
    fetch(book, FrameRow, "frame", id).outcome = outcome.value if outcome else None
    book.sql.flush()


def change_frame(book: Book, frame: Frame) -> None:
    """Store a frame over the one of its key."""
    row = fetch(book, FrameRow, "frame", frame.id)
    for field in _FIELDS:
        setattr(row, field, getattr(frame, field))
    book.sql.flush()


def delete_frame(book: Book, id: int) -> None:
    """Delete a frame."""
    book.sql.delete(fetch(book, FrameRow, "frame", id))
    book.sql.flush()


def page_of_frames(book: Book, outing_id: int, offset: int, limit: int) -> list[Frame]:
    """Frames of an outing, newest first."""
    query = (
        select(FrameRow)
        .where(FrameRow.outing_id == outing_id)
        .order_by(FrameRow.taken_at.desc(), FrameRow.id.desc())
        .offset(offset)
        .limit(limit)
    )
    return [_frame(row) for row in book.sql.scalars(query)]


def outcomes_of(book: Book, outing_id: int) -> dict[Outcome | None, int]:
    """Count the frames of an outing by their mark; None is not marked yet."""
    query = select(FrameRow.outcome, func.count()).where(FrameRow.outing_id == outing_id).group_by(FrameRow.outcome)
    counts: dict[Outcome | None, int] = {}
    for mark, count in book.sql.execute(query):
        outcome = Outcome(mark) if mark in set(Outcome) else None
        counts[outcome] = counts.get(outcome, 0) + count
    return counts


def every_frame(book: Book, outing_id: int | None = None) -> Iterator[tuple[str, Frame]]:
    """Yield (outing name, frame) in order of time, of one outing or all, without holding them in memory."""
    query = select(OutingRow.name, FrameRow).join(FrameRow.outing).order_by(FrameRow.taken_at, FrameRow.id)
    if outing_id is not None:
        query = query.where(FrameRow.outing_id == outing_id)
    for name, row in book.sql.execute(query.execution_options(yield_per=500)):
        yield name, _frame(row)


def _frame(row: FrameRow) -> Frame:
    known = {outcome.value for outcome in Outcome}
    return Frame(
        **{field: getattr(row, field) for field in _FIELDS},
        id=row.id,
        outing_id=row.outing_id,
        outcome=Outcome(row.outcome) if row.outcome in known else None,
    )
