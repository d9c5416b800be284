"""Outings and logged frames."""

from __future__ import annotations

import datetime as dt
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any, cast

from sqlalchemy import ColumnElement, Table, func, or_, select, text, tuple_

from welotrope.core.json_values import JsonObject
from welotrope.core.review.frame import Frame, NewFrame, Outing, Spot
from welotrope.core.review.outcomes import Outcome
from welotrope.core.review.search import UNCHECKED, FrameSearch, words_of
from welotrope.core.units.text import format_date
from welotrope.store import journal
from welotrope.store.models import FrameCountRow, FrameRow, OutingRow, PictureRow, RollRow
from welotrope.store.rows import fetch, read_as
from welotrope.store.unit_of_work import UnitOfWork

_PLAIN = tuple(name for name in NewFrame.__dataclass_fields__ if name not in ("spot", "tags"))
_OUTCOMES = {outcome.value: outcome for outcome in Outcome}
_FEW = 20_000


def columns_of(frame: NewFrame) -> JsonObject:
    """Return what a frame fills of its row."""
    spot = None if frame.spot is None else [frame.spot.x, frame.spot.y]
    return {name: getattr(frame, name) for name in _PLAIN} | {"spot": spot, "tags": list(frame.tags)}


def frame_of(row: FrameRow) -> Frame:
    """Return the frame of a row."""
    return Frame(
        **{name: getattr(row, name) for name in _PLAIN}, spot=_spot(row.spot),
        tags=tuple(tag for tag in row.tags if isinstance(tag, str)) if isinstance(row.tags, list) else (),
        id=row.id, outing_id=row.outing_id,
        outcome=_OUTCOMES.get(row.outcome or ""),
    )  # fmt: skip


def _spot(stored: list[float] | None) -> Spot | None:
    """Return a place in the picture; None for none, or for what is no place: that takes no frame along."""
    try:
        return Spot(*stored) if stored else None
    except (TypeError, ValueError):
        return None


def put_words(row: FrameRow, roll: str) -> None:
    """Write down what a frame is found by; ``roll`` is the name of its roll."""
    row.words = words_of(frame_of(row), roll=roll)


# Words of which the index of words is sure to make one word too; others are looked for in every frame.
_INDEXED = re.compile(r"[!-~\u00a1-\u024f\u2018-\u201d]+")


@dataclass(frozen=True)
class After:
    """Where a page of frames begins: behind this time and key, newest first."""

    taken_at: dt.datetime
    id: int


def list_outings(uow: UnitOfWork) -> list[Outing]:
    """All outings, newest first."""
    count = func.coalesce(func.sum(FrameCountRow.frames), 0)
    query = (
        select(OutingRow.id, OutingRow.name, OutingRow.day, count)
        .outerjoin(FrameCountRow, FrameCountRow.outing_id == OutingRow.id)
        .group_by(OutingRow.id)
        .order_by(OutingRow.day.desc(), OutingRow.id.desc())
    )
    return [Outing(*row) for row in uow.sql.execute(query)]


def get_outing(uow: UnitOfWork, id: int) -> Outing:
    """Return an outing; raises NotFoundError."""
    row = fetch(uow, OutingRow, "outing", id)
    count = uow.sql.scalar(select(func.sum(FrameCountRow.frames)).where(FrameCountRow.outing_id == id))
    return Outing(row.id, row.name, row.day, count or 0)


def add_outing(uow: UnitOfWork, name: str, day: dt.date) -> int:
    """Store an outing and return its key."""
    row = OutingRow(name=name, day=day)
    uow.sql.add(row)
    uow.sql.flush()
    return row.id


def change_outing(uow: UnitOfWork, id: int, name: str, day: dt.date) -> None:
    """Rename or re-date an outing."""
    row = fetch(uow, OutingRow, "outing", id)
    row.name, row.day = name, day
    uow.sql.flush()


def delete_outing(uow: UnitOfWork, id: int) -> None:
    """Delete an outing with its frames; its pictures stay, on none."""
    held = select(FrameRow.id).where(FrameRow.outing_id == id)
    for picture in uow.sql.scalars(
        select(PictureRow).where(or_(PictureRow.outing_id == id, PictureRow.frame_id.in_(held)))
    ):
        picture.outing_id = picture.frame_id = None  # here, and not by the database, so that undo knows of it
    uow.sql.flush()
    row = fetch(uow, OutingRow, "outing", id)
    journal.delete_rows(uow.sql, cast(Table, FrameRow.__table__), FrameRow.outing_id == id)
    uow.sql.delete(row)
    uow.sql.flush()


def outing_for(uow: UnitOfWork, day: dt.date) -> int:
    """Return the newest outing of a day, made when there is none."""
    newest = select(OutingRow.id).where(OutingRow.day == day).order_by(OutingRow.id.desc()).limit(1)
    found = uow.sql.scalar(newest)
    return found if found is not None else add_outing(uow, f"Outing of {format_date(day)}", day)


def add_frame(uow: UnitOfWork, outing_id: int, frame: NewFrame, *, outcome: Outcome | None = None) -> int:
    """Store a frame and return its key."""
    fetch(uow, OutingRow, "outing", outing_id)
    row = FrameRow(outing_id=outing_id, outcome=outcome, **columns_of(frame))
    put_words(row, _roll_name(uow, frame.roll_id))
    uow.sql.add(row)
    uow.sql.flush()
    return row.id


def get_frame(uow: UnitOfWork, id: int) -> Frame:
    """Return a frame; raises NotFoundError."""
    return read_as(fetch(uow, FrameRow, "frame", id), "frame", frame_of)


def mark_frame(uow: UnitOfWork, id: int, outcome: Outcome | None) -> None:
    """Record what a frame showed; None takes the mark off."""
    row = fetch(uow, FrameRow, "frame", id)
    row.outcome = outcome.value if outcome else None
    put_words(row, _roll_name(uow, row.roll_id))
    uow.sql.flush()


def change_frame(uow: UnitOfWork, frame: Frame) -> None:
    """Store a frame over the one of its key, its outing and mark too."""
    row = fetch(uow, FrameRow, "frame", frame.id)
    for name, value in columns_of(frame).items():
        setattr(row, name, value)
    row.outing_id, row.outcome = frame.outing_id, frame.outcome.value if frame.outcome else None
    put_words(row, _roll_name(uow, frame.roll_id))
    uow.sql.flush()


def delete_frame(uow: UnitOfWork, id: int) -> None:
    """Delete a frame; its pictures stay, on none."""
    for picture in uow.sql.scalars(select(PictureRow).where(PictureRow.frame_id == id)):
        picture.frame_id = None
    uow.sql.flush()
    uow.sql.delete(fetch(uow, FrameRow, "frame", id))
    uow.sql.flush()


def frames_called(uow: UnitOfWork, ids: Sequence[int]) -> list[Frame]:
    """Return the frames of these keys that there are, in order of time."""
    query = select(FrameRow).where(FrameRow.id.in_(ids)).order_by(FrameRow.taken_at, FrameRow.id)
    return [frame_of(row) for row in uow.sql.scalars(query)]


def last_frame(uow: UnitOfWork, setup_id: int) -> Frame | None:
    """Return the frame logged last with a set-up, or None."""
    query = select(FrameRow).where(FrameRow.setup_id == setup_id).order_by(FrameRow.id.desc()).limit(1)
    row = uow.sql.scalar(query)
    return None if row is None else frame_of(row)


def page_of_frames(
    uow: UnitOfWork, outing_id: int | None, search: FrameSearch, after: After | None, limit: int
) -> list[Frame]:
    """Frames of an outing, or of all, that a search finds, newest first, behind a place."""
    query = _found(select(FrameRow.id), outing_id, search)
    if after is not None:
        query = query.where(tuple_(FrameRow.taken_at, FrameRow.id) < (after.taken_at, after.id))
    ids = uow.sql.scalars(query.order_by(FrameRow.taken_at.desc(), FrameRow.id.desc()).limit(limit)).all()
    return list(reversed(frames_called(uow, ids)))


def first_page(
    uow: UnitOfWork, outing_id: int | None, search: FrameSearch, limit: int
) -> tuple[list[Frame], dict[Outcome | None, int]]:
    """Return the first page of what a search finds, and how many of each mark it finds in all.

    What finds few is looked through once for both.
    """
    if search.asks:
        query = _found(select(FrameRow.id, FrameRow.outcome), outing_id, search)
        query = query.order_by(FrameRow.taken_at.desc(), FrameRow.id.desc()).limit(_FEW)
        rows = uow.sql.execute(query).all()
        if len(rows) < _FEW:
            counts: dict[Outcome | None, int] = {}
            for _, mark in rows:
                counts[_OUTCOMES.get(mark or "")] = counts.get(_OUTCOMES.get(mark or ""), 0) + 1
            return list(reversed(frames_called(uow, [id for id, _ in rows[:limit]]))), counts
    return page_of_frames(uow, outing_id, search, None, limit), outcomes_of(uow, outing_id, search=search)


def outcomes_of(
    uow: UnitOfWork, outing_id: int | None, *, search: FrameSearch | None = None
) -> dict[Outcome | None, int]:
    """Count the frames of an outing, or of all, that a search finds, by their mark; None is not marked yet."""
    if search is None or not search.asks:
        return _all_outcomes(uow, outing_id)
    # By outing too, whose index holds both in order.
    query = _found(select(FrameRow.outcome, func.count()), outing_id, search)
    counts: dict[Outcome | None, int] = {}
    for mark, count in uow.sql.execute(query.group_by(FrameRow.outing_id, FrameRow.outcome)):
        outcome = _OUTCOMES.get(mark or "")
        counts[outcome] = counts.get(outcome, 0) + count
    return counts


def _all_outcomes(uow: UnitOfWork, outing_id: int | None) -> dict[Outcome | None, int]:
    query = select(FrameCountRow.outcome, func.sum(FrameCountRow.frames)).group_by(FrameCountRow.outcome)
    if outing_id is not None:
        query = query.where(FrameCountRow.outing_id == outing_id)
    counts: dict[Outcome | None, int] = {}
    for mark, count in uow.sql.execute(query):
        if count:
            outcome = _OUTCOMES.get(mark)
            counts[outcome] = counts.get(outcome, 0) + count
    return counts


def lens_names(uow: UnitOfWork) -> list[str]:
    """Return the lenses that frames were taken with, each found from the one before by the index of names."""
    first = select(func.min(FrameRow.lens_name).label("name")).where(FrameRow.lens_name > "").cte(recursive=True)
    behind = select(func.min(FrameRow.lens_name)).where(FrameRow.lens_name > first.c.name).scalar_subquery()
    names = first.union_all(select(behind).where(first.c.name.is_not(None)))
    return [name for name in uow.sql.scalars(select(names.c.name)) if name]


def every_frame(uow: UnitOfWork, *, outing_id: int | None = None) -> Iterator[tuple[str, Frame]]:
    """Yield (outing name, frame) in order of time, of one outing or all, without holding them in memory."""
    query = select(OutingRow.name, FrameRow).join(FrameRow.outing).order_by(FrameRow.taken_at, FrameRow.id)
    if outing_id is not None:
        query = query.where(FrameRow.outing_id == outing_id)
    for name, row in uow.sql.execute(query.execution_options(yield_per=500)):
        yield name, frame_of(row)


def _found(query: Any, outing_id: int | None, search: FrameSearch) -> Any:
    """Return a query bound to what is looked for."""
    terms: list[ColumnElement[bool]] = [] if outing_id is None else [FrameRow.outing_id == outing_id]
    indexed = [word for word in search.words if _INDEXED.fullmatch(word)]
    if indexed:
        told = text("SELECT rowid FROM frame_words WHERE frame_words MATCH :words")
        terms.append(FrameRow.id.in_(told.bindparams(words=" AND ".join(map(_match, indexed))).columns(FrameRow.id)))
    terms += [func.instr(FrameRow.words, _word(word)) > 0 for word in search.words if word not in indexed]
    terms += [func.instr(FrameRow.words, _word(word)) == 0 for word in search.without]
    bounds = (
        (FrameRow.distance_mm, search.near_mm, search.far_mm), (FrameRow.stop, search.open_stop, search.closed_stop),
    )  # fmt: skip
    for column, low, high in bounds:
        terms += [column >= low] if low is not None else []
        terms += [column <= high] if high is not None else []
    if search.day:
        terms.append(func.strftime("%Y-%m-%d", FrameRow.taken_at).startswith(search.day))
    if search.outcome:
        terms.append(FrameRow.outcome.is_(None) if search.outcome == UNCHECKED else FrameRow.outcome == search.outcome)
    if search.lens:
        terms.append(FrameRow.lens_name == search.lens)
    return query.where(*terms)


def _match(word: str) -> str:
    """Return what the index of words is asked for: the beginning of a word, a stop whole."""
    quoted = '"' + word.replace('"', '""') + '"'
    return quoted if word.startswith("f/") else f"{quoted} *"


def _word(word: str) -> str:
    """Return what is looked for: the beginning of a word, a stop whole."""
    return f" {word} " if word.startswith("f/") else f" {word}"


def _roll_name(uow: UnitOfWork, roll_id: int | None) -> str:
    row = None if roll_id is None else uow.sql.get(RollRow, roll_id)
    return "" if row is None else row.name
