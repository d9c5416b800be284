"""Mounts, adapters and attachments: rows to core values and back."""

from __future__ import annotations

from sqlalchemy import func, or_, select

from welotrope.core.errors import ConflictError
from welotrope.core.kit.adapter import Adapter
from welotrope.core.kit.attachment import Attachment
from welotrope.core.kit.mount import Link, Mount, YesNoUnknown
from welotrope.core.units.text import cleaned
from welotrope.store.errors import readable
from welotrope.store.models import AdapterRow, AttachmentRow, BodyRow, LensRow, MountRow, SetupRow
from welotrope.store.rows import document, fetch, from_json, read_as
from welotrope.store.unit_of_work import UnitOfWork


def attachment_of(row: AttachmentRow) -> Attachment:
    """Return the core value of a row."""
    return from_json(Attachment, {**row.data, "name": cleaned(row.name)})


def list_attachments(uow: UnitOfWork) -> list[tuple[int, Attachment]]:
    """All attachments by name."""
    rows = uow.sql.scalars(select(AttachmentRow).order_by(AttachmentRow.name, AttachmentRow.id))
    return readable(rows, lambda row: (row.id, attachment_of(row)))


def get_attachment(uow: UnitOfWork, id: int) -> Attachment:
    """Return an attachment; raises NotFoundError."""
    return read_as(fetch(uow, AttachmentRow, "attachment", id), "attachment", attachment_of)


def save_attachment(uow: UnitOfWork, attachment: Attachment, id: int | None = None) -> int:
    """Store an attachment, new or over the row ``id``; returns its key."""
    row = AttachmentRow() if id is None else fetch(uow, AttachmentRow, "attachment", id)
    row.name, row.data = attachment.name, document(attachment, ("name",))
    uow.sql.add(row)
    uow.sql.flush()
    return row.id


def delete_attachment(uow: UnitOfWork, id: int) -> None:
    """Delete an attachment."""
    uow.sql.delete(fetch(uow, AttachmentRow, "attachment", id))
    uow.sql.flush()


def mount_of(row: MountRow) -> Mount:
    """Return the core value of a mount row."""
    return Mount(
        name=cleaned(row.name), register_mm=row.register_mm, throat_mm=row.throat_mm, actuation=Link(row.actuation),
        stop_report=Link(row.stop_report), protruding=YesNoUnknown(row.protruding), pin=YesNoUnknown(row.pin),
    )  # fmt: skip


def adapter_of(row: AdapterRow) -> Adapter:
    """Return the core value of an adapter row."""
    return Adapter(
        name=cleaned(row.name), lens_side=mount_of(row.lens_side), body_side=mount_of(row.body_side),
        nominal_mm=row.nominal_mm, measured_mm=row.measured_mm, optics=row.optics,
        presses_pin=YesNoUnknown(row.presses_pin),
        works_aperture=row.works_aperture, foot=row.foot, factor=row.factor,
    )  # fmt: skip


def list_mounts(uow: UnitOfWork) -> list[tuple[int, Mount, bool]]:
    """All mounts as (key, mount, whether it is a published standard), the user's own first."""
    rows = uow.sql.scalars(select(MountRow).order_by(MountRow.standard, MountRow.name))
    return readable(rows, lambda row: (row.id, mount_of(row), row.standard))


def list_adapters(uow: UnitOfWork) -> list[tuple[int, Adapter]]:
    """All adapters by name."""
    rows = uow.sql.scalars(select(AdapterRow).order_by(AdapterRow.name))
    return readable(rows, lambda row: (row.id, adapter_of(row)))


def get_mount(uow: UnitOfWork, id: int) -> Mount:
    """Return a mount; raises NotFoundError."""
    return read_as(fetch(uow, MountRow, "mount", id), "mount", mount_of)


def get_adapter(uow: UnitOfWork, id: int) -> Adapter:
    """Return an adapter; raises NotFoundError."""
    return read_as(fetch(uow, AdapterRow, "adapter", id), "adapter", adapter_of)


def mount_key(uow: UnitOfWork, mount: Mount | None) -> int | None:
    """Return the key of a mount by its name, storing it when there is none of that name."""
    if mount is None:
        return None
    found = uow.sql.scalar(select(MountRow.id).where(MountRow.name == mount.name))
    return found if found is not None else save_mount(uow, mount)


def save_mount(uow: UnitOfWork, mount: Mount, id: int | None = None) -> int:
    """Store a mount; raises ConflictError for a published standard or a name that is taken."""
    row = MountRow(standard=False) if id is None else fetch(uow, MountRow, "mount", id)
    if row.standard:
        raise ConflictError(
            "mount", mount.name, "that is a published standard", "Add a mount of your own under another name"
        )
    taken = uow.sql.scalar(select(MountRow.id).where(MountRow.name == mount.name))
    if taken is not None and taken != id:
        raise ConflictError("mount name", mount.name, "there is a mount of that name", "Choose another name")
    row.name, row.register_mm, row.throat_mm = mount.name, mount.register_mm, mount.throat_mm
    row.actuation, row.stop_report = mount.actuation.value, mount.stop_report.value
    row.protruding, row.pin = mount.protruding.value, mount.pin.value
    uow.sql.add(row)
    uow.sql.flush()
    return row.id


def save_adapter(uow: UnitOfWork, adapter: Adapter, id: int | None = None) -> int:
    """Store an adapter, new or over the row ``id``; returns its key."""
    row = AdapterRow() if id is None else fetch(uow, AdapterRow, "adapter", id)
    lens_key, body_key = mount_key(uow, adapter.lens_side), mount_key(uow, adapter.body_side)
    row.name, row.lens_side = adapter.name, fetch(uow, MountRow, "mount", lens_key or 0)
    row.body_side = fetch(uow, MountRow, "mount", body_key or 0)
    row.nominal_mm, row.measured_mm, row.optics = adapter.nominal_mm, adapter.measured_mm, adapter.optics
    row.factor = adapter.factor
    row.presses_pin, row.works_aperture, row.foot = adapter.presses_pin.value, adapter.works_aperture, adapter.foot
    uow.sql.add(row)
    uow.sql.flush()
    return row.id


def delete_mount(uow: UnitOfWork, id: int) -> None:
    """Delete a mount that nothing uses; raises ConflictError otherwise."""
    row = fetch(uow, MountRow, "mount", id)
    uses = sum(
        uow.sql.scalar(query) or 0
        for query in (
            select(func.count()).where(LensRow.mount_id == id),
            select(func.count()).where(BodyRow.mount_id == id),
            select(func.count()).where(or_(AdapterRow.lens_mount_id == id, AdapterRow.body_mount_id == id)),
        )
    )
    if row.standard or uses:
        why = "it is a published standard" if row.standard else f"{uses} of your lenses, bodies and adapters use it"
        raise ConflictError("mount", row.name, why, "Change those first, or keep it")
    uow.sql.delete(row)
    uow.sql.flush()


def delete_adapter(uow: UnitOfWork, id: int) -> None:
    """Delete an adapter that no set-up uses; raises ConflictError otherwise."""
    row = fetch(uow, AdapterRow, "adapter", id)
    between = or_(SetupRow.adapter_id == id, SetupRow.converter_id == id)
    uses = uow.sql.scalar(select(func.count()).where(between)) or 0
    if uses:
        raise ConflictError("adapter", row.name, f"{uses} set-ups use it", "Change those set-ups first")
    uow.sql.delete(row)
    uow.sql.flush()
