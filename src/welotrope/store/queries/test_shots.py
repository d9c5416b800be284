"""Measured pictures of printed sheets, by series."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from sqlalchemy import Select, func, select

from welotrope.core.testshot.aid_series import MeasuredShot
from welotrope.core.testshot.series_record import SeriesRecord
from welotrope.store.errors import NotFoundError, readable
from welotrope.store.models import ShotRow
from welotrope.store.rows import fetch, from_json, read_as, to_json
from welotrope.store.unit_of_work import UnitOfWork

RECENT = 500
AID_SERIES = "aid"
SERIES_KINDS = ("ring", "stops", "shift", "level")


@dataclass(frozen=True, kw_only=True)
class NewShot:
    """What is stored with a measured picture: its series, and by whom, with what and when it was taken."""

    series: str
    person: str = ""
    setup_id: int | None = None
    body_name: str = ""
    lens_name: str = ""
    aid: str = ""
    taken_at: dt.datetime
    made_up: bool = False
    preview_sha: str | None = None


@dataclass(frozen=True, kw_only=True)
class StoredShot(NewShot):
    """A measured picture with its key."""

    id: int
    shot: MeasuredShot


@dataclass(frozen=True, kw_only=True)
class StoredSeries(NewShot):
    """A measured series of a kind other than with one aid, with its key and kind, and what it told."""

    id: int
    kind: str
    found: SeriesRecord


@dataclass(frozen=True, kw_only=True)
class ShotSeries:
    """A series as it is listed: its key, with what and when, and how many pictures it holds."""

    series: str
    setup_id: int | None
    body_name: str
    lens_name: str
    aid: str
    made_up: bool
    taken_at: dt.datetime
    pictures: int


def add_shot(uow: UnitOfWork, new: NewShot, shot: MeasuredShot) -> int:
    """Store a measured picture and return its key."""
    row = ShotRow(
        series=new.series, kind=AID_SERIES, person=new.person, setup_id=new.setup_id, body_name=new.body_name,
        lens_name=new.lens_name, aid=new.aid, taken_at=new.taken_at, made_up=new.made_up, preview_sha=new.preview_sha,
        data=to_json(shot),
    )  # fmt: skip
    uow.sql.add(row)
    uow.sql.flush()
    return row.id


def add_series(uow: UnitOfWork, new: NewShot, kind: str, found: SeriesRecord) -> int:
    """Store what a series of a kind told and return its key."""
    row = ShotRow(
        series=new.series, kind=kind, person=new.person, setup_id=new.setup_id, body_name=new.body_name,
        lens_name=new.lens_name, aid=new.aid, taken_at=new.taken_at, made_up=new.made_up, data=to_json(found),
    )  # fmt: skip
    uow.sql.add(row)
    uow.sql.flush()
    return row.id


def get_series(uow: UnitOfWork, id: int) -> StoredSeries:
    """Return a series other than with one aid; raises NotFoundError."""
    row = fetch(uow, ShotRow, "series", id)
    if row.kind not in SERIES_KINDS:
        raise NotFoundError("series", id)
    return read_as(row, "series", series_of)


def results_of_setup(uow: UnitOfWork, setup_id: int, *, limit: int = 30) -> list[StoredSeries]:
    """Return the latest series other than with one aid of a set-up, newest first."""
    query = select(ShotRow).where(ShotRow.setup_id == setup_id, ShotRow.kind.in_(SERIES_KINDS))
    return readable(uow.sql.scalars(query.order_by(ShotRow.id.desc()).limit(limit)), series_of)


def get_shot(uow: UnitOfWork, id: int) -> StoredShot:
    """Return a measured picture; raises NotFoundError."""
    return read_as(fetch(uow, ShotRow, "test shot", id), "test shot", shot_of)


def delete_shot(uow: UnitOfWork, id: int) -> None:
    """Delete a measured picture."""
    uow.sql.delete(fetch(uow, ShotRow, "test shot", id))
    uow.sql.flush()


def shots_of_series(uow: UnitOfWork, series: str) -> list[StoredShot]:
    """Return the pictures of a series, oldest first."""
    return readable(uow.sql.scalars(_of_series(series)), shot_of)


def _of_series(series: str) -> Select[ShotRow]:
    return select(ShotRow).where(ShotRow.series == series, ShotRow.kind == AID_SERIES).order_by(ShotRow.id)


def delete_series(uow: UnitOfWork, series: str) -> int:
    """Delete all pictures of a series; returns how many."""
    rows = list(uow.sql.scalars(select(ShotRow).where(ShotRow.series == series)))
    for row in rows:
        uow.sql.delete(row)
    uow.sql.flush()
    return len(rows)


def list_series(uow: UnitOfWork, *, limit: int = 30) -> list[ShotSeries]:
    """Return the latest series, newest first."""
    query = (
        select(
            ShotRow.series, func.max(ShotRow.setup_id), func.max(ShotRow.body_name), func.max(ShotRow.lens_name),
            func.max(ShotRow.aid), func.max(ShotRow.made_up), func.max(ShotRow.taken_at), func.count(),
        )
        .where(ShotRow.kind == AID_SERIES)
        .group_by(ShotRow.series)
        .order_by(func.max(ShotRow.id).desc())
        .limit(limit)
    )  # fmt: skip
    return [
        ShotSeries(
            series=series, setup_id=setup, body_name=body, lens_name=lens, aid=aid, made_up=bool(made_up), taken_at=at,
            pictures=pictures,
        )
        for series, setup, body, lens, aid, made_up, at, pictures in uow.sql.execute(query)
    ]  # fmt: skip


def shots_of_setup(uow: UnitOfWork, setup_id: int, *, limit: int = RECENT) -> list[StoredShot]:
    """Return the real pictures with a set-up that say where focus fell, oldest first, the latest so many."""
    query = (
        select(ShotRow)
        .where(ShotRow.setup_id == setup_id, ShotRow.kind == AID_SERIES, ShotRow.made_up.is_(False), ShotRow.aid != "")
        .order_by(ShotRow.id.desc())
        .limit(limit)
    )
    return [one for one in reversed(readable(uow.sql.scalars(query), shot_of)) if one.shot.counts]


def series_of(row: ShotRow) -> StoredSeries:
    """Return the value of a row of a series; raises ValueError or its like when the row makes no sense."""
    return StoredSeries(
        id=row.id, kind=row.kind, series=row.series, person=row.person, setup_id=row.setup_id, body_name=row.body_name,
        lens_name=row.lens_name, aid=row.aid, taken_at=row.taken_at, made_up=row.made_up,
        found=from_json(SeriesRecord, row.data),
    )  # fmt: skip


def kept_of(row: ShotRow) -> StoredShot | StoredSeries:
    """Return the value of a row of any kind; raises ValueError or its like when the row makes no sense."""
    return series_of(row) if row.kind in SERIES_KINDS else shot_of(row)


def shot_of(row: ShotRow) -> StoredShot:
    """Return the value of a row; raises ValueError or its like when the row makes no sense."""
    return StoredShot(
        id=row.id, series=row.series, person=row.person, setup_id=row.setup_id, body_name=row.body_name,
        lens_name=row.lens_name, aid=row.aid, taken_at=row.taken_at, made_up=row.made_up, preview_sha=row.preview_sha,
        shot=from_json(MeasuredShot, row.data),
    )  # fmt: skip
