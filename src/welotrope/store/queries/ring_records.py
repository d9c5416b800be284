"""What was recorded of rings: surveys, infinity, focus shift, depth marks, and named settings of a lens."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from sqlalchemy import Select, select

from welotrope.core.errors import ConflictError
from welotrope.core.json_values import JsonObject
from welotrope.core.kit.known_ring import RECORD_TYPES, RingRecords
from welotrope.core.plan.field_settings import Preset
from welotrope.core.plan.setting import Subject, parse_subject_token, subject_token
from welotrope.core.ring.depth_marks import MarkRecord
from welotrope.core.ring.focus_shift import FocusShift
from welotrope.core.ring.survey import Survey
from welotrope.core.ring.true_infinity import InfinityRecord
from welotrope.core.units.distance import format_metric
from welotrope.core.units.exposure import format_stop
from welotrope.core.units.text import cleaned, format_date
from welotrope.store.errors import readable, why_unreadable
from welotrope.store.models import LensRow, MeasurementRow, PresetRow
from welotrope.store.rows import fetch, from_json, read_as, to_json
from welotrope.store.unit_of_work import UnitOfWork

Record = Survey | InfinityRecord | FocusShift | MarkRecord


def list_presets(uow: UnitOfWork, lens_id: int) -> list[Preset]:
    """Presets of a lens, in the order they were made."""
    rows = uow.sql.scalars(select(PresetRow).where(PresetRow.lens_id == lens_id).order_by(PresetRow.id))
    return readable(rows, preset_of)


def get_preset(uow: UnitOfWork, id: int) -> Preset:
    """Return a preset; raises NotFoundError."""
    return read_as(fetch(uow, PresetRow, "preset", id), "preset", preset_of)


def preset_named(uow: UnitOfWork, lens_id: int, name: str) -> Preset | None:
    """Return the preset of that name of a lens, or None."""
    return next((preset for preset in list_presets(uow, lens_id) if preset.name == name), None)


def _check_free(uow: UnitOfWork, lens_id: int, name: str) -> None:
    found = preset_named(uow, lens_id, name)
    if found is not None:
        at = f"{format_metric(found.distance_mm)} at {format_stop(found.stop)}"
        raise ConflictError(
            "preset name", name, f"this lens has a preset of that name, {at}", "Choose another name, or replace it"
        )


def add_preset(
    uow: UnitOfWork,
    lens_id: int,
    name: str,
    distance_mm: float,
    stop: float,
    subjects: tuple[Subject, ...],
    *,
    replace: bool = False,
) -> int:
    """Store a preset and return its key; with ``replace`` over the one of its name.

    Raises
    ------
    ConflictError
        When the lens has a preset of that name already: names tell presets apart, in files too.
    """
    old = preset_named(uow, lens_id, name) if replace else None
    if old is not None:
        uow.sql.delete(fetch(uow, PresetRow, "preset", old.id))
        uow.sql.flush()
    _check_free(uow, lens_id, name)
    tokens = [subject_token(subject) for subject in subjects]
    row = PresetRow(lens_id=lens_id, name=name, distance_mm=distance_mm, stop=stop, subjects=tokens)
    uow.sql.add(row)
    uow.sql.flush()
    return row.id


def rename_preset(uow: UnitOfWork, id: int, name: str) -> None:
    """Give a preset another name; raises ConflictError when another of the lens has it."""
    row = fetch(uow, PresetRow, "preset", id)
    if name != row.name:
        _check_free(uow, row.lens_id, name)
    row.name = name
    uow.sql.flush()


def delete_preset(uow: UnitOfWork, id: int) -> None:
    """Delete a preset."""
    uow.sql.delete(fetch(uow, PresetRow, "preset", id))
    uow.sql.flush()


def preset_of(row: PresetRow) -> Preset:
    """Return the core value of a preset row."""
    # A subject that cannot be read does not take the setting with it.
    subjects = tuple(readable(row.subjects, parse_subject_token))
    return Preset(
        id=row.id, lens_id=row.lens_id, name=cleaned(row.name), distance_mm=row.distance_mm, stop=row.stop,
        subjects=subjects,
    )  # fmt: skip


class RecordKind(StrEnum):
    """What a record is of; the first of each pair holds for a lens, the others for one set-up."""

    SCALE = "scale"
    SHIFT = "shift"
    MARKS = "marks"
    MEASURED = "measured"
    INFINITY = "infinity"

    @property
    def of_setup(self) -> bool:
        """Whether it holds for one set-up only."""
        return self in (RecordKind.MEASURED, RecordKind.INFINITY)


_NAMES = {
    RecordKind.SCALE: "readings of the engraving", RecordKind.MEASURED: "measured readings",
    RecordKind.INFINITY: "sightings of infinity", RecordKind.SHIFT: "trials of focus shift",
    RecordKind.MARKS: "readings of the depth marks",
}  # fmt: skip


@dataclass(frozen=True)
class StoredRecord:
    """A record and the day it was taken."""

    record: Any
    taken: dt.date


def records_of(lens: LensRow, setup_id: int) -> RingRecords:
    """Return all records that bear on a set-up."""
    found: JsonObject = {}
    unreadable: list[str] = []
    elsewhere = None
    for row in _holding(lens.measurements):
        kind = RecordKind(row.kind)
        here = row.setup_id in (None, setup_id)
        if not here and kind is not RecordKind.MEASURED:
            continue
        why = why_unreadable(row, record_of)
        if why is not None:
            unreadable.append(f"The {_NAMES[kind]} of {format_date(row.taken)} cannot be read. {why}")
        elif here:
            found[kind.value] = record_of(row)
        elif row.data["way"] != "steps":
            elsewhere = record_of(row)
    elsewhere = None if RecordKind.MEASURED in found else elsewhere
    return RingRecords(**found, elsewhere=elsewhere, unreadable=tuple(unreadable))


def get_record(uow: UnitOfWork, kind: RecordKind, lens_id: int, setup_id: int) -> StoredRecord | None:
    """Return a record of a lens or set-up, or None."""
    row = _row(uow, kind, lens_id, setup_id)
    if row is None or why_unreadable(row, record_of) is not None:
        return None
    return StoredRecord(record_of(row), row.taken)


def save_record(uow: UnitOfWork, kind: RecordKind, lens_id: int, setup_id: int, record: Record, taken: dt.date) -> None:
    """Store a record as the one that holds; what was taken on other days stays as history, of a day the last."""
    row = _row(uow, kind, lens_id, setup_id)
    if row is None or row.taken != taken:
        row = MeasurementRow(lens_id=lens_id, setup_id=setup_id if kind.of_setup else None, kind=kind.value)
        uow.sql.add(row)
    row.data, row.taken = to_json(record), taken
    uow.sql.flush()
    _read_again(uow, lens_id)


def history_of(uow: UnitOfWork, kind: RecordKind, lens_id: int, setup_id: int) -> list[StoredRecord]:
    """Return every record of a kind that was kept, newest first, withdrawn ones too."""
    rows = uow.sql.scalars(_of(kind, lens_id, setup_id).order_by(MeasurementRow.id.desc()))
    return [StoredRecord(record_of(row), row.taken) for row in rows if why_unreadable(row, record_of) is None]


def every_record(uow: UnitOfWork) -> list[tuple[int, int | None, RecordKind, StoredRecord]]:
    """Return (lens, set-up, kind, record) of every record that can be read, set-up None where it is of the lens."""
    rows = _holding(uow.sql.scalars(select(MeasurementRow).order_by(MeasurementRow.id)))
    return [
        (row.lens_id, row.setup_id, RecordKind(row.kind), StoredRecord(record_of(row), row.taken))
        for row in rows
        if why_unreadable(row, record_of) is None
    ]


def forget_record(uow: UnitOfWork, kind: RecordKind, lens_id: int, setup_id: int) -> bool:
    """Let no record of a kind hold any more; returns whether one did. What was kept stays as history."""
    rows = uow.sql.scalars(_of(kind, lens_id, setup_id).where(MeasurementRow.withdrawn.is_(False))).all()
    for row in rows:
        row.withdrawn = True
    uow.sql.flush()
    _read_again(uow, lens_id)
    return bool(rows)


def _holding(rows: Iterable[MeasurementRow]) -> list[MeasurementRow]:
    """Return of each kind, lens and set-up the last row that is not withdrawn, by the day they were taken."""
    last = {(r.lens_id, r.setup_id, r.kind): r for r in sorted(rows, key=lambda row: row.id) if not r.withdrawn}
    return sorted(last.values(), key=lambda row: row.taken)


def _read_again(uow: UnitOfWork, lens_id: int) -> None:
    uow.sql.expire(uow.sql.get_one(LensRow, lens_id), ["measurements"])


def record_of(row: MeasurementRow) -> Any:
    """Return the value of a row; raises ValueError or its like when the row makes no sense."""
    return from_json(RECORD_TYPES[row.kind], row.data)


def _row(uow: UnitOfWork, kind: RecordKind, lens_id: int, setup_id: int) -> MeasurementRow | None:
    """Return the row that holds."""
    query = _of(kind, lens_id, setup_id).where(MeasurementRow.withdrawn.is_(False))
    return uow.sql.scalars(query.order_by(MeasurementRow.id.desc()).limit(1)).first()


def _of(kind: RecordKind, lens_id: int, setup_id: int) -> Select[MeasurementRow]:
    query = select(MeasurementRow).where(MeasurementRow.lens_id == lens_id, MeasurementRow.kind == kind.value)
    return query.where(MeasurementRow.setup_id.is_(setup_id if kind.of_setup else None))
