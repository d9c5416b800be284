"""Tables of what keeps the rest: settings, files, jobs, devices, and the journal of changes."""

from __future__ import annotations

import datetime as dt

from sqlalchemy import JSON
from sqlalchemy.orm import Mapped, mapped_column

from welotrope.core.json_values import JsonObject
from welotrope.store.models.base import Base


class SettingRow(Base):
    """A remembered choice, such as the set-up in hand."""

    __tablename__ = "setting"
    __table_args__: object = {}

    key: Mapped[str] = mapped_column(primary_key=True)
    value: Mapped[str]


class FileRow(Base):
    """Bytes kept as a file in the data folder: the hash they are known by, and where they lie under it."""

    __tablename__ = "file"
    __table_args__: object = {}

    sha256: Mapped[str] = mapped_column(primary_key=True)
    path: Mapped[str]
    media_type: Mapped[str]
    bytes: Mapped[int]
    added: Mapped[dt.datetime]


class JobRow(Base):
    """A long piece of work: what it is, how far it is, and how it ended."""

    __tablename__ = "job"

    id: Mapped[int] = mapped_column(primary_key=True)
    title: Mapped[str]
    state: Mapped[str]
    done: Mapped[int] = mapped_column(default=0)
    total: Mapped[int] = mapped_column(default=0)
    note: Mapped[str] = mapped_column(default="")
    leads_to: Mapped[str] = mapped_column(default="")
    began: Mapped[dt.datetime]
    ended: Mapped[dt.datetime | None]


class DeviceRow(Base):
    """A device that was paired over the local network: the hash of its secret, and when it was last seen."""

    __tablename__ = "device"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    secret_hash: Mapped[str] = mapped_column(unique=True)
    paired: Mapped[dt.datetime]
    seen: Mapped[dt.datetime]


class ReceivedRow(Base):
    """An entry of a queue or a pocket log that was taken over, by the key it was made with, and what it became."""

    __tablename__ = "received"
    __table_args__: object = {}

    key: Mapped[str] = mapped_column(primary_key=True)
    at: Mapped[dt.datetime]
    became: Mapped[str]


class JournalRow(Base):
    """One undoable change: the rows before and after it; ``retired`` when an update of the tables left it behind."""

    __tablename__ = "journal"

    id: Mapped[int] = mapped_column(primary_key=True)
    label: Mapped[str]
    at: Mapped[dt.datetime]
    changes: Mapped[list[JsonObject]] = mapped_column(JSON)
    undone: Mapped[bool] = mapped_column(default=False)
    retired: Mapped[bool] = mapped_column(default=False)
