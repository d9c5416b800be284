"""Bodies, lenses and set-ups: rows to core values and back."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from types import SimpleNamespace
from typing import Any, NamedTuple, TypeVar

from sqlalchemy import ColumnElement, select

from welotrope.core.errors import ConflictError, UnreadableError
from welotrope.core.json_values import JsonObject
from welotrope.core.kit.aids.kind import AidRecord
from welotrope.core.kit.aids.registry import kind_called, kind_of
from welotrope.core.kit.body import Body
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.setup import Setup
from welotrope.core.optics.sharpness import SharpnessStandard, Standard
from welotrope.core.units.text import cleaned
from welotrope.store.errors import Broken, NotFoundError, broken_among, broken_rows, readable, why_unreadable
from welotrope.store.models import (
    AdapterRow,
    AttachmentRow,
    BodyRow,
    LensRow,
    MeasurementRow,
    MountRow,
    SettingRow,
    SetupRow,
    TrialRow,
)
from welotrope.store.queries.mounts import adapter_of, attachment_of, get_adapter, mount_key, mount_of
from welotrope.store.queries.ring_records import records_of
from welotrope.store.rows import VERSION_KEY, document, fetch, from_json, read_as
from welotrope.store.unit_of_work import UnitOfWork

_SETUP, _BODY, _LENS = (kind.__table__ for kind in (SetupRow, BodyRow, LensRow))
_ADAPTER, _CONVERTER = (AdapterRow.__table__.alias(name) for name in ("adapter_1", "adapter_2"))
_BODY_MOUNT, _LENS_MOUNT, _LENS_SIDE, _BODY_SIDE, _FRONT_SIDE, _BACK_SIDE = (
    MountRow.__table__.alias(f"mount_{k}") for k in range(6)
)
_RECORD = MeasurementRow.__table__
_PARTS = (
    _SETUP, _BODY, _LENS, _ADAPTER, _CONVERTER, _BODY_MOUNT, _LENS_MOUNT, _LENS_SIDE, _BODY_SIDE, _FRONT_SIDE,
    _BACK_SIDE,
)  # fmt: skip
_ENDS = [sum(len(part.c) for part in _PARTS[: k + 1]) for k in range(len(_PARTS))]
_JOINED = select(*[column for part in _PARTS for column in part.c]).select_from(
    _SETUP.join(_BODY, _SETUP.c.body_id == _BODY.c.id)
    .join(_LENS, _SETUP.c.lens_id == _LENS.c.id)
    .outerjoin(_ADAPTER, _SETUP.c.adapter_id == _ADAPTER.c.id)
    .outerjoin(_BODY_MOUNT, _BODY.c.mount_id == _BODY_MOUNT.c.id)
    .outerjoin(_LENS_MOUNT, _LENS.c.mount_id == _LENS_MOUNT.c.id)
    .outerjoin(_LENS_SIDE, _ADAPTER.c.lens_mount_id == _LENS_SIDE.c.id)
    .outerjoin(_BODY_SIDE, _ADAPTER.c.body_mount_id == _BODY_SIDE.c.id)
    .outerjoin(_CONVERTER, _SETUP.c.converter_id == _CONVERTER.c.id)
    .outerjoin(_FRONT_SIDE, _CONVERTER.c.lens_mount_id == _FRONT_SIDE.c.id)
    .outerjoin(_BACK_SIDE, _CONVERTER.c.body_mount_id == _BACK_SIDE.c.id)
)

_IN_HAND = "find_selected_setup"
_COLUMNS = ("name", "mount")  # kept in columns of their own


def joined_setups(uow: UnitOfWork, *where: ColumnElement[bool]) -> list[Any]:
    """Return set-up rows with body, lens, adapter, mounts and records, in the order they were made."""
    rows = [_apart(tuple(row)) for row in uow.sql.execute(_JOINED.where(*where).order_by(_SETUP.c.id))]
    records = defaultdict(list)
    for record in uow.sql.execute(select(_RECORD).where(_RECORD.c.lens_id.in_({row.lens_id for row in rows}))):
        records[record.lens_id].append(record)
    for row in rows:
        row.lens.measurements = records[row.lens_id]
    return rows


def _apart(values: tuple[object, ...]) -> Any:
    starts = [0, *_ENDS[:-1]]
    parts = [_part(part, values[start:end]) for part, start, end in zip(_PARTS, starts, _ENDS, strict=True)]
    setup, body, lens, adapter, converter, body.mount, lens.mount, *sides = parts
    for piece, (lens_side, body_side) in ((adapter, sides[:2]), (converter, sides[2:])):
        if piece is not None:
            piece.lens_side, piece.body_side = lens_side, body_side
    setup.body, setup.lens, setup.adapter, setup.converter = body, lens, adapter, converter
    return setup


def _part(table: Any, values: tuple[object, ...]) -> Any:
    """Return a part's values by name, None for one that is not there."""
    return None if values[0] is None else SimpleNamespace(**dict(zip(table.c.keys(), values, strict=True)))


RecordT = TypeVar("RecordT", Body, Lens)


class JointKeys(NamedTuple):
    """What stands between lens and body, by the keys of their rows, and whether the lens was made for the body."""

    adapter: int | None = None
    converter: int | None = None
    made_for_body: bool = False


@dataclass(frozen=True, kw_only=True)
class StoredSetup:
    """A set-up with the keys of its rows."""

    id: int
    body_id: int
    lens_id: int
    setup: Setup
    adapter_id: int | None = None
    converter_id: int | None = None

    @property
    def joint(self) -> JointKeys:
        """What stands between its lens and its body, by key, and whether the lens was made for it."""
        return JointKeys(self.adapter_id, self.converter_id, self.setup.made_for_body)


def body_of(row: BodyRow) -> Body:
    """Return the core value of a body row."""
    aids = tuple(aid_of(data) for data in row.data["aids"])
    return _record(Body, row, aids=aids)


def aid_of(data: JsonObject) -> AidRecord:
    """Return the aid that ``{"kind": …}`` with its fields describes; raises UnreadableError for an unknown kind."""
    kind = kind_called(str(data.get("kind")))
    if kind is None:
        raise UnreadableError("focusing aid", data.get("kind"), "there is no such kind", "Enter the aids again")
    return from_json(kind.record, {key: value for key, value in data.items() if key != "kind"})


def aid_data(aid: AidRecord) -> JsonObject:
    """Return an aid as :func:`aid_of` reads it."""
    return {"kind": kind_of(aid).tag, **document(aid, (VERSION_KEY,))}


def lens_of(row: LensRow) -> Lens:
    """Return the core value of a lens row."""
    return _record(Lens, row)


def _record(kind: type[RecordT], row: BodyRow | LensRow, **parts: object) -> RecordT:
    """Return the record that a row's document describes, with its name, its mount and what is read apart."""
    mount = mount_of(row.mount) if row.mount else None
    return from_json(kind, {**row.data, **parts, "name": cleaned(row.name), "mount": mount})


def stored_setup(row: SetupRow) -> StoredSetup:
    """Return a set-up row as core values with its keys."""
    standard = SharpnessStandard(kind=Standard(row.standard), **row.standard_values)
    adapter, converter = (adapter_of(piece) if piece else None for piece in (row.adapter, row.converter))
    records, lens = records_of(row.lens, row.id), lens_of(row.lens)
    zoom_mm = row.zoom_mm if row.zoom_mm is not None and lens.zoom.reaches(row.zoom_mm) else None
    setup = Setup(
        body=body_of(row.body), lens=lens, standard=standard, adapter=adapter, converter=converter, records=records,
        zoom_mm=zoom_mm, made_for_body=row.made_for_body,
    )  # fmt: skip
    return StoredSetup(
        id=row.id, body_id=row.body_id, lens_id=row.lens_id, setup=setup, adapter_id=row.adapter_id,
        converter_id=row.converter_id,
    )  # fmt: skip


def list_bodies(uow: UnitOfWork) -> list[tuple[int, Body]]:
    """All bodies that can be read, by name."""
    rows = uow.sql.scalars(select(BodyRow).order_by(BodyRow.name, BodyRow.id))
    return readable(rows, lambda row: (row.id, body_of(row)))


def list_lenses(uow: UnitOfWork) -> list[tuple[int, Lens]]:
    """All lenses that can be read, by focal length."""
    rows = uow.sql.scalars(select(LensRow).order_by(LensRow.name, LensRow.id))
    return sorted(readable(rows, lambda row: (row.id, lens_of(row))), key=lambda found: found[1].focal_mm)


def list_setups(uow: UnitOfWork) -> list[StoredSetup]:
    """All set-ups that can be read, in the order they were made."""
    return readable(joined_setups(uow), stored_setup)


def get_body(uow: UnitOfWork, id: int) -> Body:
    """Return a body; raises NotFoundError."""
    return read_as(fetch(uow, BodyRow, "body", id), "body", body_of)


def get_lens(uow: UnitOfWork, id: int) -> Lens:
    """Return a lens; raises NotFoundError."""
    return read_as(fetch(uow, LensRow, "lens", id), "lens", lens_of)


def get_setup(uow: UnitOfWork, id: int) -> StoredSetup:
    """Return a set-up; raises NotFoundError, and BrokenRecordError for one that cannot be read."""
    found = joined_setups(uow, SetupRow.id == id) if 0 < id < 2**63 else []
    if not found:
        raise NotFoundError("set-up", id)
    return read_as(found[0], "set-up", stored_setup)


def save_body(uow: UnitOfWork, body: Body, id: int | None = None) -> int:
    """Store a body, new or over the row ``id``; returns its key."""
    row = BodyRow() if id is None else fetch(uow, BodyRow, "body", id)
    row.name, row.mount_id = body.name, mount_key(uow, body.mount)
    row.data = {**document(body, _COLUMNS), "aids": [aid_data(aid) for aid in body.aids]}
    uow.sql.add(row)
    uow.sql.flush()
    return row.id


def save_lens(uow: UnitOfWork, lens: Lens, id: int | None = None) -> int:
    """Store a lens, new or over the row ``id``; returns its key."""
    row = LensRow() if id is None else fetch(uow, LensRow, "lens", id)
    row.name, row.mount_id, row.data = lens.name, mount_key(uow, lens.mount), document(lens, _COLUMNS)
    uow.sql.add(row)
    uow.sql.flush()
    return row.id


def remember_diameter(uow: UnitOfWork, id: int, diameter_mm: float) -> None:
    """Keep the ring diameter of a lens, mm."""
    row = fetch(uow, LensRow, "lens", id)
    row.data = {**row.data, "ring_diameter_mm": diameter_mm}
    uow.sql.flush()


def save_setup(
    uow: UnitOfWork,
    body_id: int,
    lens_id: int,
    standard: SharpnessStandard,
    *,
    id: int | None = None,
    joint: JointKeys = JointKeys(),
) -> int:
    """Store a set-up, new or over the row ``id``; checks that the standard suits the body; returns its key.

    What was measured on another joint of lens, adapter and body no longer holds and is removed.
    """
    standard.acceptable_blur(get_body(uow, body_id).image)
    get_lens(uow, lens_id)
    row = SetupRow() if id is None else fetch(uow, SetupRow, "set-up", id)
    for piece in (joint.adapter, joint.converter):
        if piece is not None:
            get_adapter(uow, piece)
    if joint.adapter is not None and joint.adapter == joint.converter:
        raise ConflictError(
            "converter", "the adapter itself", "one piece cannot stand twice", "Choose another, or none"
        )
    before = (row.body_id, row.lens_id, row.adapter_id, row.converter_id)
    if id is not None and before != (body_id, lens_id, joint.adapter, joint.converter):
        row.measurements.clear()
        _part_trials(uow, SetupRow.id == id)
    row.body_id, row.lens_id, row.standard = body_id, lens_id, standard.kind.value
    row.adapter_id, row.converter_id = joint.adapter, joint.converter
    row.made_for_body = joint.made_for_body and joint[:2] == (None, None)
    row.standard_values = {
        "pixels": standard.pixels,
        "print_width_mm": standard.print_width_mm,
        "viewing_mm": standard.viewing_mm,
        "acuity_arcmin": standard.acuity_arcmin,
        "own_mm": standard.own_mm,
    }
    uow.sql.add(row)
    uow.sql.flush()
    return row.id


def delete_body(uow: UnitOfWork, id: int) -> None:
    """Delete a body with its set-ups; rounds practised with them stay, by name."""
    row = fetch(uow, BodyRow, "body", id)
    _part_trials(uow, SetupRow.body_id == id)
    uow.sql.delete(row)
    uow.sql.flush()


def delete_lens(uow: UnitOfWork, id: int) -> None:
    """Delete a lens with its set-ups and presets; rounds practised with them stay, by name."""
    row = fetch(uow, LensRow, "lens", id)
    _part_trials(uow, SetupRow.lens_id == id)
    uow.sql.delete(row)
    uow.sql.flush()


def delete_setup(uow: UnitOfWork, id: int) -> None:
    """Delete a set-up; its body and lens stay, and rounds practised with it, by name."""
    row = fetch(uow, SetupRow, "set-up", id)
    _part_trials(uow, SetupRow.id == id)
    uow.sql.delete(row)
    uow.sql.flush()


def find_setup(uow: UnitOfWork, id: int) -> StoredSetup | None:
    """Return a set-up, or None when there is none that can be read."""
    return next(iter(readable(joined_setups(uow, SetupRow.id == id), stored_setup)), None)


def find_selected_setup(uow: UnitOfWork) -> StoredSetup | None:
    """Return the set-up chosen last, else the first there is, else None."""
    chosen = uow.sql.scalar(select(SettingRow.value).where(SettingRow.key == _IN_HAND))
    found: list[StoredSetup | None] = []
    if chosen and chosen.isdigit():
        found = [find_setup(uow, int(chosen))]
    return found[0] if found and found[0] else next(iter(list_setups(uow)), None)


def select_setup(uow: UnitOfWork, id: int) -> StoredSetup:
    """Make a set-up the one in hand; raises NotFoundError."""
    stored = get_setup(uow, id)
    uow.sql.merge(SettingRow(key=_IN_HAND, value=str(id)))
    return stored


def zoom_to(uow: UnitOfWork, id: int, zoom_mm: float) -> None:
    """Leave a set-up at a marked focal length, mm; errors as ``Lens.zoomed``."""
    get_setup(uow, id).setup.zoomed(zoom_mm)
    fetch(uow, SetupRow, "set-up", id).zoom_mm = zoom_mm
    uow.sql.flush()


def broken_kit(uow: UnitOfWork) -> list[Broken]:
    """Return the bodies, lenses, set-ups and adapters that cannot be read; a set-up only for what is its own."""
    found = broken_rows(uow, BodyRow, "body", body_of) + broken_rows(uow, LensRow, "lens", lens_of)
    found += broken_rows(uow, AdapterRow, "adapter", adapter_of)
    found += broken_rows(uow, AttachmentRow, "attachment", attachment_of)
    whole = not found
    return found + (broken_among(joined_setups(uow), "setup", "set-up", stored_setup) if whole else [])


def delete_broken(uow: UnitOfWork, table: str, id: int) -> None:
    """Delete a record that cannot be read; raises NotFoundError, and ConflictError for one that can."""
    kinds: dict[str, tuple[Any, Any]] = {
        "body": (BodyRow, body_of), "lens": (LensRow, lens_of), "setup": (SetupRow, stored_setup),
        "adapter": (AdapterRow, adapter_of), "attachment": (AttachmentRow, attachment_of),
    }  # fmt: skip
    kind, read = kinds.get(table, (None, None))
    if kind is None or read is None:
        raise NotFoundError(table[:20], id)
    row = fetch(uow, kind, table, id)
    if why_unreadable(row, read) is None:
        raise ConflictError("record", id, "it can be read", "Delete it on its own page")
    if kind is AdapterRow:
        for setup in uow.sql.scalars(select(SetupRow).where(SetupRow.adapter_id == id)):
            setup.adapter_id = None
        for setup in uow.sql.scalars(select(SetupRow).where(SetupRow.converter_id == id)):
            setup.converter_id = None
    elif kind is not AttachmentRow:
        _part_trials(uow, {BodyRow: SetupRow.body_id, LensRow: SetupRow.lens_id, SetupRow: SetupRow.id}[kind] == id)
    uow.sql.delete(row)
    uow.sql.flush()


def _part_trials(uow: UnitOfWork, which: ColumnElement[bool]) -> None:
    """Part trials from set-ups that go, since their keys may be given again."""
    setups = select(SetupRow.id).where(which)
    for trial in uow.sql.scalars(select(TrialRow).where(TrialRow.setup_id.in_(setups))):
        trial.setup_id = None
