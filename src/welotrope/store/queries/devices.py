"""Devices paired over the local network."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from sqlalchemy import select

from welotrope.core.errors import Field
from welotrope.core.units.text import check_name
from welotrope.store.models import DeviceRow
from welotrope.store.rows import fetch
from welotrope.store.unit_of_work import UnitOfWork

NAME, NAME_LIMIT = Field("name", "name of the device"), 40


@dataclass(frozen=True, kw_only=True)
class Device:
    """A paired device: its key, the name it was given, and when it was paired and last seen."""

    id: int
    name: str
    paired: dt.datetime
    seen: dt.datetime


def list_devices(uow: UnitOfWork) -> list[Device]:
    """All paired devices, the newest first."""
    rows = uow.sql.scalars(select(DeviceRow).order_by(DeviceRow.id.desc()))
    return [Device(id=row.id, name=row.name, paired=row.paired, seen=row.seen) for row in rows]


def secrets_of(uow: UnitOfWork) -> dict[str, int]:
    """Return the key of every device by the hash of its secret."""
    return {row.secret_hash: row.id for row in uow.sql.execute(select(DeviceRow.secret_hash, DeviceRow.id))}


def add_device(uow: UnitOfWork, name: str, secret_hash: str, now: dt.datetime) -> int:
    """Store a device and return its key."""
    row = DeviceRow(name=check_name(name, NAME, limit=NAME_LIMIT), secret_hash=secret_hash, paired=now, seen=now)
    uow.sql.add(row)
    uow.sql.flush()
    return row.id


def note_seen(uow: UnitOfWork, seen: dict[int, dt.datetime]) -> None:
    """Note when devices were last seen."""
    for row in uow.sql.scalars(select(DeviceRow).where(DeviceRow.id.in_(seen))):
        row.seen = seen[row.id]


def revoke_device(uow: UnitOfWork, id: int) -> None:
    """Let a device in no more; raises NotFoundError."""
    uow.sql.delete(fetch(uow, DeviceRow, "device", id))
    uow.sql.flush()
