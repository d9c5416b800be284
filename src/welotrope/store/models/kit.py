"""Tables of the kit: what there is, how it goes together, and what was read of rings."""

from __future__ import annotations

import datetime as dt

from sqlalchemy import JSON, Float, ForeignKey, Index, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from welotrope.core.json_values import JsonObject
from welotrope.store.models.base import Base


class MountRow(Base):
    """A lens mount; the published thread standards cannot be changed."""

    __tablename__ = "mount"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    register_mm: Mapped[float | None]
    throat_mm: Mapped[float | None]
    actuation: Mapped[str]
    stop_report: Mapped[str]
    protruding: Mapped[str]
    pin: Mapped[str]
    standard: Mapped[bool] = mapped_column(default=False)


class AdapterRow(Base):
    """An adapter between two mounts."""

    __tablename__ = "adapter"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    lens_mount_id: Mapped[int] = mapped_column(ForeignKey("mount.id"), index=True)
    body_mount_id: Mapped[int] = mapped_column(ForeignKey("mount.id"), index=True)
    nominal_mm: Mapped[float | None]
    measured_mm: Mapped[float | None]
    optics: Mapped[bool] = mapped_column(default=False)
    presses_pin: Mapped[str]
    works_aperture: Mapped[bool] = mapped_column(default=False)
    foot: Mapped[bool] = mapped_column(default=False)
    factor: Mapped[float | None]
    lens_side: Mapped[MountRow] = relationship(foreign_keys=[lens_mount_id], lazy="joined")
    body_side: Mapped[MountRow] = relationship(foreign_keys=[body_mount_id], lazy="joined")


class AttachmentRow(Base):
    """What goes on or under a lens: its name, and under ``data`` the rest of the record."""

    __tablename__ = "attachment"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    data: Mapped[JsonObject] = mapped_column(JSON)


class BodyRow(Base):
    """A camera body: its name, its mount, and under ``data`` the rest of the record."""

    __tablename__ = "body"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    mount_id: Mapped[int | None] = mapped_column(ForeignKey("mount.id"))
    data: Mapped[JsonObject] = mapped_column(JSON)
    mount: Mapped[MountRow | None] = relationship(lazy="joined")
    setups: Mapped[list[SetupRow]] = relationship(back_populates="body", cascade="all, delete-orphan")
    slots: Mapped[list[SlotRow]] = relationship(cascade="all, delete-orphan")
    sheet_lines: Mapped[list[SheetLineRow]] = relationship(cascade="all, delete-orphan")


class LensRow(Base):
    """A lens: its name, its mount, and under ``data`` the rest of the record."""

    __tablename__ = "lens"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    mount_id: Mapped[int | None] = mapped_column(ForeignKey("mount.id"))
    data: Mapped[JsonObject] = mapped_column(JSON)
    mount: Mapped[MountRow | None] = relationship(lazy="joined")
    setups: Mapped[list[SetupRow]] = relationship(back_populates="lens", cascade="all, delete-orphan")
    slots: Mapped[list[SlotRow]] = relationship(cascade="all, delete-orphan")
    presets: Mapped[list[PresetRow]] = relationship(back_populates="lens", cascade="all, delete-orphan")
    measurements: Mapped[list[MeasurementRow]] = relationship(cascade="all, delete-orphan")


class SetupRow(Base):
    """A lens on a body with a sharpness standard; a zoom at the focal length it was left at, or its longest."""

    __tablename__ = "setup"

    id: Mapped[int] = mapped_column(primary_key=True)
    body_id: Mapped[int] = mapped_column(ForeignKey("body.id", ondelete="CASCADE"), index=True)
    lens_id: Mapped[int] = mapped_column(ForeignKey("lens.id", ondelete="CASCADE"), index=True)
    adapter_id: Mapped[int | None] = mapped_column(ForeignKey("adapter.id"))
    converter_id: Mapped[int | None] = mapped_column(ForeignKey("adapter.id"))
    made_for_body: Mapped[bool] = mapped_column(default=False)
    standard: Mapped[str]
    standard_values: Mapped[dict[str, float]] = mapped_column(JSON, default=dict)
    zoom_mm: Mapped[float | None]
    body: Mapped[BodyRow] = relationship(back_populates="setups", lazy="joined")
    lens: Mapped[LensRow] = relationship(back_populates="setups", lazy="joined")
    adapter: Mapped[AdapterRow | None] = relationship(foreign_keys=[adapter_id], lazy="joined")
    converter: Mapped[AdapterRow | None] = relationship(foreign_keys=[converter_id], lazy="joined")
    ticks: Mapped[list[SheetTickRow]] = relationship(cascade="all, delete-orphan")
    measurements: Mapped[list[MeasurementRow]] = relationship(cascade="all, delete-orphan", overlaps="measurements")


class MeasurementRow(Base):
    """A dated record of a lens's ring, or of one of its set-ups; of each kind the last that is not withdrawn holds."""

    __tablename__ = "measurement"
    __table_args__ = (Index("ix_measurement_of", "lens_id", "setup_id", "kind"), {"sqlite_autoincrement": True})

    id: Mapped[int] = mapped_column(primary_key=True)
    lens_id: Mapped[int] = mapped_column(ForeignKey("lens.id", ondelete="CASCADE"), index=True)
    setup_id: Mapped[int | None] = mapped_column(ForeignKey("setup.id", ondelete="CASCADE"), index=True)
    kind: Mapped[str]
    data: Mapped[JsonObject] = mapped_column(JSON)
    taken: Mapped[dt.date]
    withdrawn: Mapped[bool] = mapped_column(default=False)


class PresetRow(Base):
    """A named ring setting of a lens, with the subjects it was planned for as URL tokens."""

    __tablename__ = "preset"

    id: Mapped[int] = mapped_column(primary_key=True)
    lens_id: Mapped[int] = mapped_column(ForeignKey("lens.id", ondelete="CASCADE"), index=True)
    name: Mapped[str]
    distance_mm: Mapped[float] = mapped_column(Float)
    stop: Mapped[float]
    subjects: Mapped[list[str]] = mapped_column(JSON, default=list)
    lens: Mapped[LensRow] = relationship(back_populates="presets")


class SlotRow(Base):
    """The numbered slot of a body that holds a lens's data."""

    __tablename__ = "slot"

    id: Mapped[int] = mapped_column(primary_key=True)
    body_id: Mapped[int] = mapped_column(ForeignKey("body.id", ondelete="CASCADE"), index=True)
    lens_id: Mapped[int] = mapped_column(ForeignKey("lens.id", ondelete="CASCADE"), index=True)
    number: Mapped[int]


class SheetLineRow(Base):
    """A change to the set-up sheet of a body: a line reworded, dropped, or added."""

    __tablename__ = "sheet_line"

    id: Mapped[int] = mapped_column(primary_key=True)
    body_id: Mapped[int] = mapped_column(ForeignKey("body.id", ondelete="CASCADE"), index=True)
    line: Mapped[str]
    text: Mapped[str] = mapped_column(default="")
    reason: Mapped[str] = mapped_column(default="")
    dropped: Mapped[bool] = mapped_column(default=False)


class SheetTickRow(Base):
    """A line of a set-up's sheet ticked off for an outing (0 without one)."""

    __tablename__ = "sheet_tick"
    __table_args__ = (UniqueConstraint("setup_id", "outing_id", "line"), {"sqlite_autoincrement": True})

    id: Mapped[int] = mapped_column(primary_key=True)
    setup_id: Mapped[int] = mapped_column(ForeignKey("setup.id", ondelete="CASCADE"), index=True)
    outing_id: Mapped[int] = mapped_column(default=0)
    line: Mapped[str]
