"""The whole kit gathered for a file, and a file's kit stored: things of the same name are replaced."""

from __future__ import annotations

import math
from typing import NamedTuple

from sqlalchemy import select

from welotrope.core.kit.adapter import Adapter
from welotrope.core.kit.attachment import Attachment
from welotrope.core.kit.body import Body
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.mount import Mount
from welotrope.core.kit.setup import Setup
from welotrope.core.optics.sharpness import SharpnessStandard
from welotrope.core.plan.setting import Subject
from welotrope.store.models import AdapterRow, AttachmentRow, BodyRow, LensRow, MountRow, SetupRow
from welotrope.store.queries import kit, mounts, ring_records, sheets
from welotrope.store.unit_of_work import UnitOfWork

# Lens, body and adapter (None for a record of the lens), kind, and the record with its day.
RecordValues = tuple[str, str | None, str | None, str, ring_records.StoredRecord]
PresetValues = tuple[str, str, float, float, tuple[Subject, ...]]


class SetupNames(NamedTuple):
    """A set-up by the names of its parts, None for what it has not."""

    body: str
    lens: str
    adapter: str | None
    converter: str | None
    made_for_body: bool
    standard: SharpnessStandard


def all_mounts(uow: UnitOfWork) -> list[Mount]:
    """Return every mount in use or added, the published ones too, so that a file stands by itself."""
    return [mount for _, mount, _ in mounts.list_mounts(uow)]


_PRESET_NAME = 40  # characters that a file takes; what is stored may be older


def setup_names(uow: UnitOfWork) -> list[SetupNames]:
    """Return the set-ups as names of body, lens and adapter with their standard."""
    return [_names(stored.setup) for stored in kit.list_setups(uow)]


def _names(setup: Setup) -> SetupNames:
    adapter, converter = (piece.name if piece else None for piece in (setup.adapter, setup.converter))
    return SetupNames(
        setup.body.name, setup.lens.name, adapter, converter, setup.made_for_body, setup.standard
    )  # fmt: skip


def slot_names(uow: UnitOfWork) -> list[tuple[str, str, int]]:
    """Return (body, lens, number) of every assigned slot."""
    return [
        (body.name, lens.name, number)
        for body_id, body in kit.list_bodies(uow)
        for number, _, lens in sheets.slots_of(uow, body_id)
    ]


def preset_values(uow: UnitOfWork) -> list[PresetValues]:
    """Return (lens, name, distance in mm, stop, subjects) of every preset.

    Undoing may have brought a name back that was given again since: the later one gets a number.
    """
    found: list[PresetValues] = []
    for lens_id, lens in kit.list_lenses(uow):
        taken: set[str] = set()
        for preset in ring_records.list_presets(uow, lens_id):
            name, number = preset.name[:_PRESET_NAME], 2
            while name in taken:
                name, number = f"{preset.name[: _PRESET_NAME - 5]} {number}", number + 1
            taken.add(name)
            found.append((lens.name, name, preset.distance_mm, preset.stop, preset.subjects))
    return found


def record_values(uow: UnitOfWork) -> list[RecordValues]:
    """Return every ring record with the names of its lens and, where it is of a set-up, body and adapter."""
    lenses = dict(kit.list_lenses(uow))
    setups = {stored.id: stored.setup for stored in kit.list_setups(uow)}
    found: list[RecordValues] = []
    for lens_id, setup_id, kind, stored in ring_records.every_record(uow):
        setup = setups.get(setup_id) if setup_id is not None else None
        if lens_id in lenses and (setup_id is None or setup is not None):
            adapter = setup.adapter.name if setup and setup.adapter else None
            found.append((lenses[lens_id].name, setup.body.name if setup else None, adapter, kind.value, stored))
    return found


def store_record(uow: UnitOfWork, values: RecordValues) -> None:
    """Store a ring record in place of the last of its kind."""
    lens_name, body_name, adapter_name, kind, stored = values
    lens = _key(uow, LensRow, lens_name) or 0
    setup = _setup_key(uow, body_name or "", lens_name, adapter_name) or 0
    ring_records.save_record(uow, ring_records.RecordKind(kind), lens, setup, stored.record, stored.taken)


def _key(
    uow: UnitOfWork, table: type[MountRow | AdapterRow | AttachmentRow | BodyRow | LensRow], name: str
) -> int | None:
    """Return the key of the thing of that name, or None."""
    return uow.sql.scalar(select(table.id).where(table.name == name).order_by(table.id).limit(1))


def store_mount(uow: UnitOfWork, mount: Mount) -> int:
    """Store a mount over the one of its name; the published ones stay as they are."""
    key = _key(uow, MountRow, mount.name)
    if key is not None and uow.sql.get_one(MountRow, key).standard:
        return key
    return mounts.save_mount(uow, mount, id=key)


def store_adapter(uow: UnitOfWork, adapter: Adapter) -> int:
    """Store an adapter over the one of its name."""
    return mounts.save_adapter(uow, adapter, id=_key(uow, AdapterRow, adapter.name))


def store_attachment(uow: UnitOfWork, attachment: Attachment) -> int:
    """Store an attachment over the one of its name."""
    return mounts.save_attachment(uow, attachment, id=_key(uow, AttachmentRow, attachment.name))


def store_body(uow: UnitOfWork, body: Body) -> int:
    """Store a body over the one of its name."""
    return kit.save_body(uow, body, id=_key(uow, BodyRow, body.name))


def store_slot(uow: UnitOfWork, body_name: str, lens_name: str, number: int) -> None:
    """Put a lens into a slot of a body."""
    body, lens = _key(uow, BodyRow, body_name) or 0, _key(uow, LensRow, lens_name) or 0
    sheets.put_in_slot(uow, body, lens, number)


def store_lens(uow: UnitOfWork, lens: Lens) -> int:
    """Store a lens over the one of its name."""
    return kit.save_lens(uow, lens, id=_key(uow, LensRow, lens.name))


def store_setup(uow: UnitOfWork, names: SetupNames) -> int:
    """Store a set-up of things already stored; the same body, lens and adapter are one set-up."""
    body = _key(uow, BodyRow, names.body) or 0
    lens = _key(uow, LensRow, names.lens) or 0
    adapter, converter = (_key(uow, AdapterRow, name) if name else None for name in (names.adapter, names.converter))
    found = _setup_key(uow, names.body, names.lens, names.adapter)
    joint = kit.JointKeys(adapter, converter, names.made_for_body)
    return kit.save_setup(uow, body, lens, names.standard, id=found, joint=joint)


def _setup_key(uow: UnitOfWork, body_name: str, lens_name: str, adapter_name: str | None) -> int | None:
    query = select(SetupRow.id).where(
        SetupRow.body_id == (_key(uow, BodyRow, body_name) or 0),
        SetupRow.lens_id == (_key(uow, LensRow, lens_name) or 0),
        SetupRow.adapter_id.is_(_key(uow, AdapterRow, adapter_name) if adapter_name else None),
    )
    return uow.sql.scalars(query).first()


def store_preset(uow: UnitOfWork, values: PresetValues) -> None:
    """Store a preset over the one of its name on that lens."""
    lens_name, name, distance, stop, subjects = values
    lens = _key(uow, LensRow, lens_name) or 0
    ring_records.add_preset(
        uow, lens, name, distance if math.isfinite(distance) else math.inf, stop, subjects, replace=True
    )
