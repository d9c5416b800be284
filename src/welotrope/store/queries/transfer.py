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
from welotrope.core.plan.subjects import Subject
from welotrope.store.book import Book
from welotrope.store.models import AdapterRow, AttachmentRow, BodyRow, LensRow, MountRow, SetupRow
from welotrope.store.queries import attachments, kit, mounts, presets, ring_records, slots

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


def all_mounts(book: Book) -> list[Mount]:
    """Return every mount in use or added, the published ones too, so that a file stands by itself."""
    return [mount for _, mount, _ in mounts.list_mounts(book)]


_PRESET_NAME = 40  # characters that a file takes; what is stored may be older


def setup_names(book: Book) -> list[SetupNames]:
    """Return the set-ups as names of body, lens and adapter with their standard."""
    return [_names(stored.setup) for stored in kit.list_setups(book)]


def _names(setup: Setup) -> SetupNames:
    adapter, converter = (piece.name if piece else None for piece in (setup.adapter, setup.converter))
    return SetupNames(
        setup.body.name, setup.lens.name, adapter, converter, setup.made_for_body, setup.standard
    )  # fmt: skip


def slot_names(book: Book) -> list[tuple[str, str, int]]:
    """Return (body, lens, number) of every assigned slot."""
    return [
        (body.name, lens.name, number)
        for body_id, body in kit.list_bodies(book)
        for number, _, lens in slots.slots_of(book, body_id)
    ]


def preset_values(book: Book) -> list[PresetValues]:
    """Return (lens, name, distance in mm, stop, subjects) of every preset.

    Undoing may have brought a name back that was given again since: the later one gets a number.
    """
    found: list[PresetValues] = []
    for lens_id, lens in kit.list_lenses(book):
        taken: set[str] = set()
        for preset in presets.list_presets(book, lens_id):
            name, number = preset.name[:_PRESET_NAME], 2
            while name in taken:
                name, number = f"{preset.name[: _PRESET_NAME - 5]} {number}", number + 1
            taken.add(name)
            found.append((lens.name, name, preset.distance_mm, preset.stop, preset.subjects))
    return found


def record_values(book: Book) -> list[RecordValues]:
    """Return every ring record with the names of its lens and, where it is of a set-up, body and adapter."""
    lenses = dict(kit.list_lenses(book))
    setups = {stored.id: stored.setup for stored in kit.list_setups(book)}
    found: list[RecordValues] = []
    for lens_id, setup_id, kind, stored in ring_records.every_record(book):
        setup = setups.get(setup_id) if setup_id is not None else None
        if lens_id in lenses and (setup_id is None or setup is not None):
            adapter = setup.adapter.name if setup and setup.adapter else None
            found.append((lenses[lens_id].name, setup.body.name if setup else None, adapter, kind.value, stored))
    return found


def store_record(book: Book, values: RecordValues) -> None:
    """Store a ring record in place of the last of its kind."""
    lens_name, body_name, adapter_name, kind, stored = values
    lens = _key(book, LensRow, lens_name) or 0
    setup = _setup_key(book, body_name or "", lens_name, adapter_name) or 0
    ring_records.save_record(book, ring_records.RecordKind(kind), lens, setup, stored.record, stored.taken)


def _key(book: Book, table: type[MountRow | AdapterRow | AttachmentRow | BodyRow | LensRow], name: str) -> int | None:
    """Return the key of the thing of that name, or None."""
    return book.sql.scalar(select(table.id).where(table.name == name).order_by(table.id).limit(1))


def store_mount(book: Book, mount: Mount) -> int:
    """Store a mount over the one of its name; the published ones stay as they are."""
    key = _key(book, MountRow, mount.name)
    if key is not None and book.sql.get_one(MountRow, key).standard:
        return key
    return mounts.save_mount(book, mount, key)


def store_adapter(book: Book, adapter: Adapter) -> int:
    """Store an adapter over the one of its name."""
    return mounts.save_adapter(book, adapter, _key(book, AdapterRow, adapter.name))


def store_attachment(book: Book, attachment: Attachment) -> int:
    """Store an attachment over the one of its name."""
    return attachments.save_attachment(book, attachment, _key(book, AttachmentRow, attachment.name))


def store_body(book: Book, body: Body) -> int:
    """Store a body over the one of its name."""
    return kit.save_body(book, body, _key(book, BodyRow, body.name))


def store_slot(book: Book, body_name: str, lens_name: str, number: int) -> None:
    """Put a lens into a slot of a body."""
    body, lens = _key(book, BodyRow, body_name) or 0, _key(book, LensRow, lens_name) or 0
    slots.put_in_slot(book, body, lens, number)


def store_lens(book: Book, lens: Lens) -> int:
    """Store a lens over the one of its name."""
    return kit.save_lens(book, lens, _key(book, LensRow, lens.name))


def store_setup(book: Book, names: SetupNames) -> int:
    """Store a set-up of things already stored; the same body, lens and adapter are one set-up."""
    body = _key(book, BodyRow, names.body) or 0
    lens = _key(book, LensRow, names.lens) or 0
    adapter, converter = (_key(book, AdapterRow, name) if name else None for name in (names.adapter, names.converter))
    found = _setup_key(book, names.body, names.lens, names.adapter)
    joint = kit.JointKeys(adapter, converter, names.made_for_body)
    return kit.save_setup(book, body, lens, names.standard, found, joint)


def _setup_key(book: Book, body_name: str, lens_name: str, adapter_name: str | None) -> int | None:
    query = select(SetupRow.id).where(
        SetupRow.body_id == (_key(book, BodyRow, body_name) or 0),
        SetupRow.lens_id == (_key(book, LensRow, lens_name) or 0),
        SetupRow.adapter_id.is_(_key(book, AdapterRow, adapter_name) if adapter_name else None),
    )
    return book.sql.scalars(query).first()


def store_preset(book: Book, values: PresetValues) -> None:
    """Store a preset over the one of its name on that lens."""
    lens_name, name, distance, stop, subjects = values
    lens = _key(book, LensRow, lens_name) or 0
    presets.add_preset(
        book, lens, name, distance if math.isfinite(distance) else math.inf, stop, subjects, replace=True
    )
