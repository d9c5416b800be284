"""Attachments: rows to core values and back."""

from __future__ import annotations

from sqlalchemy import select

from welotrope.core.kit.attachment import Attachment
from welotrope.core.units.text import cleaned
from welotrope.store.broken import readable
from welotrope.store.models import AttachmentRow
from welotrope.store.rows import fetch, read_as
from welotrope.store.unit_of_work import UnitOfWork
from welotrope.store.values import document, from_json


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
