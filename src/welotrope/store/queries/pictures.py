"""Pictures, the imports they came with, and what was measured in them."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import Select, func, literal_column, select

from welotrope.core.json_values import JsonObject
from welotrope.core.picture.picture import NewPicture, Picture, PictureExif
from welotrope.store.models import FrameRow, PictureImportRow, PictureMapRow, PictureRow
from welotrope.store.rows import fetch, from_json, read_as, to_json
from welotrope.store.unit_of_work import UnitOfWork

_PLAIN = tuple(name for name in Picture.__dataclass_fields__ if name != "exif")
_NEW = tuple(name for name in NewPicture.__dataclass_fields__ if name != "exif")
MOST_REFUSED = 200
KEEP = 50


def add_picture(
    uow: UnitOfWork, picture: NewPicture, batch: str, *, outing_id: int | None = None, **files: str | None
) -> int:
    """Store a picture and return its key; ``files`` are ``thumb_sha``, ``preview_sha`` and ``original_sha``."""
    row = PictureRow(
        **{name: getattr(picture, name) for name in _NEW}, exif=to_json(picture.exif), batch=batch,
        outing_id=outing_id, **files,
    )  # fmt: skip
    uow.sql.add(row)
    uow.sql.flush()
    return row.id


def get_picture(uow: UnitOfWork, id: int) -> Picture:
    """Return a picture; raises NotFoundError."""
    return read_as(fetch(uow, PictureRow, "picture", id), "picture", picture_of)


def find_by_hash(uow: UnitOfWork, sha256: str) -> Picture | None:
    """Return the picture of a file, or None."""
    row = uow.sql.scalar(select(PictureRow).where(PictureRow.sha256 == sha256))
    return None if row is None else picture_of(row)


def change_picture(uow: UnitOfWork, id: int, **values: object) -> None:
    """Change what is known of the file of a picture, by attribute."""
    row = fetch(uow, PictureRow, "picture", id)
    for name, value in values.items():
        setattr(row, name, value)
    uow.sql.flush()


def list_pictures(uow: UnitOfWork, outing_id: int | None, *, batch: str = "", limit: int = 2000) -> list[Picture]:
    """Return pictures of an outing in order of time and name; of a batch, or without an outing yet, likewise."""
    query = select(PictureRow).where(PictureRow.outing_id == outing_id)
    if batch:
        query = select(PictureRow).where(PictureRow.batch == batch)
    return _listed(uow, query.limit(limit))


def pictures_of_frames(uow: UnitOfWork, frame_ids: Sequence[int]) -> Mapping[int, list[Picture]]:
    """Return the pictures of these frames by their frame, in order of time and name."""
    found: dict[int, list[Picture]] = {}
    for picture in _listed(uow, select(PictureRow).where(PictureRow.frame_id.in_(frame_ids))):
        found.setdefault(picture.frame_id or 0, []).append(picture)
    return found


def first_of_frames(uow: UnitOfWork, frame_ids: Sequence[int]) -> Mapping[int, Picture]:
    """Return the first picture of each of these frames that has one."""
    return {frame: held[0] for frame, held in pictures_of_frames(uow, frame_ids).items()}


def count_pictures(uow: UnitOfWork, outing_id: int | None) -> int:
    """Return how many pictures an outing has; None counts those on no outing."""
    return uow.sql.scalar(select(func.count()).select_from(PictureRow).where(PictureRow.outing_id == outing_id)) or 0


def assign(uow: UnitOfWork, frames: Mapping[int, int | None]) -> None:
    """Say which frame pictures belong to, by key; None for no frame. They go to the outing of their frame."""
    rows = {row.id: row for row in uow.sql.scalars(select(PictureRow).where(PictureRow.id.in_(frames)))}
    wanted = {frame_id for frame_id in frames.values() if frame_id is not None}
    places = select(FrameRow.id, FrameRow.outing_id).where(FrameRow.id.in_(wanted))
    outings = {id: outing for id, outing in uow.sql.execute(places)}
    for id, frame_id in frames.items():
        row = rows.get(id) or fetch(uow, PictureRow, "picture", id)
        if frame_id is not None:  # a frame that is gone is found out before anything is written
            row.outing_id = (
                outings[frame_id] if frame_id in outings else fetch(uow, FrameRow, "frame", frame_id).outing_id
            )
        row.frame_id = frame_id
    uow.sql.flush()


def set_clock(uow: UnitOfWork, ids: Sequence[int], clock_s: float) -> None:
    """Note what puts the clock of these pictures right, seconds."""
    for row in uow.sql.scalars(select(PictureRow).where(PictureRow.id.in_(ids))):
        row.clock_s = clock_s
    uow.sql.flush()


def delete_pictures(uow: UnitOfWork, ids: Sequence[int]) -> int:
    """Forget pictures; their files stay where they are. Returns how many."""
    rows = uow.sql.scalars(select(PictureRow).where(PictureRow.id.in_(ids))).all()
    for row in rows:
        uow.sql.delete(row)
    uow.sql.flush()
    return len(rows)


def measured(uow: UnitOfWork, id: int) -> JsonObject | None:
    """Return what was measured in a picture, None for nothing yet."""
    row = uow.sql.get(PictureMapRow, id)
    return None if row is None else row.data


def keep_measured(uow: UnitOfWork, id: int, data: JsonObject) -> None:
    """Keep what was measured in a picture."""
    row = uow.sql.get(PictureMapRow, id)
    if row is None:
        uow.sql.add(PictureMapRow(picture_id=id, data=data))
    else:
        row.data = data
    uow.sql.flush()


def _listed(uow: UnitOfWork, query: Select[Any]) -> list[Picture]:
    ordered = query.order_by(PictureRow.taken_at.is_(None), PictureRow.taken_at, PictureRow.name, PictureRow.id)
    found = [picture_of(row) for row in uow.sql.scalars(ordered)]
    return sorted(found, key=lambda one: (one.when is None, one.when or dt.datetime.min, one.name, one.id))


def picture_of(row: PictureRow) -> Picture:
    """Return the value of a row; raises ValueError or its like when the row makes no sense."""
    return Picture(**{name: getattr(row, name) for name in _PLAIN}, exif=from_json(PictureExif, row.exif))


_NEWEST: tuple[Any, ...] = (PictureImportRow.at.desc(), literal_column("rowid").desc())


@dataclass(frozen=True, kw_only=True)
class PictureImport:
    """An import: its source and time, pictures added, known before and still there, and files refused with why."""

    batch: str
    source: str
    at: dt.datetime
    added: int
    known: int
    refused: tuple[str, ...]
    ended: str
    left: int = 0


def begin_import(uow: UnitOfWork, batch: str, source: str, now: dt.datetime) -> None:
    """Enter an import; the oldest go."""
    uow.sql.add(PictureImportRow(batch=batch, source=source[:400], at=now, added=0, known=0, refused=[], ended=""))
    uow.sql.flush()
    for old in uow.sql.scalars(select(PictureImportRow).order_by(*_NEWEST).offset(KEEP)):
        uow.sql.delete(old)
    uow.sql.flush()


def note_import(
    uow: UnitOfWork, batch: str, *, added: int = 0, known: int = 0, refused: tuple[str, ...] = (), ended: str = ""
) -> None:
    """Add to the report of an import."""
    row = uow.sql.get(PictureImportRow, batch)
    if row is None:
        return
    row.added += added
    row.known += known
    row.refused = [*row.refused, *refused][:MOST_REFUSED]
    row.ended = ended or row.ended
    uow.sql.flush()


def list_imports(uow: UnitOfWork, *, limit: int = 8) -> list[PictureImport]:
    """Return the latest imports, newest first, each with how many of its pictures there are."""
    rows = uow.sql.scalars(select(PictureImportRow).order_by(*_NEWEST).limit(limit)).all()
    query = (
        select(PictureRow.batch, func.count()).where(PictureRow.batch.in_([row.batch for row in rows]))
        .group_by(PictureRow.batch)
    )  # fmt: skip
    left = {batch: count for batch, count in uow.sql.execute(query)}
    return [
        PictureImport(
            batch=row.batch, source=row.source, at=row.at, added=row.added, known=row.known,
            refused=tuple(row.refused), ended=row.ended, left=left.get(row.batch, 0),
        )
        for row in rows
    ]  # fmt: skip
