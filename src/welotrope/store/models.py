"""Tables. Lengths in mm; infinity is stored as SQLite's infinite real, never as NULL."""

from __future__ import annotations

import datetime as dt
from typing import Any

from sqlalchemy import JSON, Float, ForeignKey, Index, MetaData, UniqueConstraint
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship


class Base(DeclarativeBase):
    """Base of all tables, with named constraints so that migrations can address them."""

    # A key is never given twice: what was undone must not come back over a record of later.
    __table_args__: Any = {"sqlite_autoincrement": True}

    metadata = MetaData(
        naming_convention={
            "ix": "ix_%(table_name)s_%(column_0_name)s",
            "uq": "uq_%(table_name)s_%(column_0_name)s",
            "fk": "fk_%(table_name)s_%(column_0_name)s",
            "pk": "pk_%(table_name)s",
        }
    )


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
    data: Mapped[dict[str, Any]] = mapped_column(JSON)


class BodyRow(Base):
    """A camera body: its name, its mount, and under ``data`` the rest of the record."""

    __tablename__ = "body"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    mount_id: Mapped[int | None] = mapped_column(ForeignKey("mount.id"))
    data: Mapped[dict[str, Any]] = mapped_column(JSON)
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
    data: Mapped[dict[str, Any]] = mapped_column(JSON)
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
    standard: Mapped[str]
    standard_values: Mapped[dict[str, float]] = mapped_column(JSON, default=dict)
    zoom_mm: Mapped[float | None]
    body: Mapped[BodyRow] = relationship(back_populates="setups", lazy="joined")
    lens: Mapped[LensRow] = relationship(back_populates="setups", lazy="joined")
    adapter: Mapped[AdapterRow | None] = relationship(lazy="joined")
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
    data: Mapped[dict[str, Any]] = mapped_column(JSON)
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


class OutingRow(Base):
    """A day or an occasion on which frames were taken."""

    __tablename__ = "outing"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    day: Mapped[dt.date]
    frames: Mapped[list[FrameRow]] = relationship(back_populates="outing", cascade="all, delete-orphan")


class RollRow(Base):
    """A roll of film: its name, and under ``data`` the rest of the record."""

    __tablename__ = "roll"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    data: Mapped[dict[str, Any]] = mapped_column(JSON)


class FrameRow(Base):
    """A logged frame. It keeps the kit's names, so that it outlives the kit's rows."""

    __tablename__ = "frame"
    __table_args__ = (
        Index("ix_frame_outing_taken", "outing_id", "taken_at"), Index("ix_frame_tally", "outing_id", "outcome"),
        # All that a search looks at, so that it need not touch the rows.
        Index(
            "ix_frame_search", "taken_at", "id", "outing_id", "outcome", "lens_name", "stop", "distance_mm", "words"
        ),
        {"sqlite_autoincrement": True},
    )  # fmt: skip

    id: Mapped[int] = mapped_column(primary_key=True)
    outing_id: Mapped[int] = mapped_column(ForeignKey("outing.id", ondelete="CASCADE"))
    setup_id: Mapped[int | None]
    body_name: Mapped[str]
    lens_name: Mapped[str] = mapped_column(index=True)
    focal_mm: Mapped[float | None]
    blur_mm: Mapped[float | None]
    stop: Mapped[float | None]
    distance_mm: Mapped[float | None]
    angle_deg: Mapped[float | None]
    near_mm: Mapped[float | None]
    far_mm: Mapped[float | None]
    preset_name: Mapped[str] = mapped_column(default="")
    taken_at: Mapped[dt.datetime]
    undated: Mapped[bool] = mapped_column(default=False)
    note: Mapped[str] = mapped_column(default="")
    shutter_s: Mapped[float | None]
    iso: Mapped[int | None]
    roll_id: Mapped[int | None] = mapped_column(ForeignKey("roll.id", ondelete="SET NULL"), index=True)
    film_frame: Mapped[str] = mapped_column(default="")
    subject: Mapped[str] = mapped_column(default="")
    spot: Mapped[list[float] | None] = mapped_column(JSON(none_as_null=True))
    believed_mm: Mapped[float | None]
    aid: Mapped[str] = mapped_column(default="")
    technique: Mapped[str] = mapped_column(default="")
    support: Mapped[str] = mapped_column(default="")
    light: Mapped[str] = mapped_column(default="")
    instead: Mapped[str] = mapped_column(default="")
    miss_mm: Mapped[float | None]
    tags: Mapped[list[str]] = mapped_column(JSON, default=list)
    outcome: Mapped[str | None]
    words: Mapped[str] = mapped_column(default="")
    outing: Mapped[OutingRow] = relationship(back_populates="frames")


class PictureRow(Base):
    """A picture by the hash of its file: where it lies, what its EXIF says, and the frame it belongs to."""

    __tablename__ = "picture"

    id: Mapped[int] = mapped_column(primary_key=True)
    sha256: Mapped[str] = mapped_column(unique=True)
    name: Mapped[str]
    folder: Mapped[str] = mapped_column(default="")
    media_type: Mapped[str]
    bytes: Mapped[int]
    width_px: Mapped[int]
    height_px: Mapped[int]
    taken_at: Mapped[dt.datetime | None]
    clock_s: Mapped[float] = mapped_column(default=0.0)
    exif: Mapped[dict[str, Any]] = mapped_column(JSON, default=dict)
    batch: Mapped[str] = mapped_column(index=True)
    outing_id: Mapped[int | None] = mapped_column(ForeignKey("outing.id", ondelete="SET NULL"), index=True)
    frame_id: Mapped[int | None] = mapped_column(ForeignKey("frame.id", ondelete="SET NULL"), index=True)
    thumb_sha: Mapped[str | None] = mapped_column(ForeignKey("file.sha256"))
    preview_sha: Mapped[str | None] = mapped_column(ForeignKey("file.sha256"))
    original_sha: Mapped[str | None] = mapped_column(ForeignKey("file.sha256"))


class PictureMapRow(Base):
    """What was measured in a picture; made again when it is gone, so that undo need not keep it."""

    __tablename__ = "picture_map"
    __table_args__: Any = {}

    picture_id: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    data: Mapped[dict[str, Any]] = mapped_column(JSON)


class PictureImportRow(Base):
    """An import of pictures: from where, and what came of it; its report outlives the job."""

    __tablename__ = "picture_import"
    __table_args__: Any = {}

    batch: Mapped[str] = mapped_column(primary_key=True)
    source: Mapped[str]
    at: Mapped[dt.datetime]
    added: Mapped[int] = mapped_column(default=0)
    known: Mapped[int] = mapped_column(default=0)
    refused: Mapped[list[str]] = mapped_column(JSON, default=list)
    ended: Mapped[str] = mapped_column(default="")


class SidecarRow(Base):
    """A sidecar that was written: what was there before, by its hash, and what it holds since."""

    __tablename__ = "sidecar"

    id: Mapped[int] = mapped_column(primary_key=True)
    batch: Mapped[str] = mapped_column(index=True)
    picture_id: Mapped[int]
    path: Mapped[str]
    before_sha: Mapped[str | None] = mapped_column(ForeignKey("file.sha256"))
    after_sha: Mapped[str]
    written: Mapped[dt.datetime]
    undone: Mapped[bool] = mapped_column(default=False)


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


class TrialRow(Base):
    """A round in the simulated finder. It keeps the kit's names, so that it outlives the kit's rows."""

    __tablename__ = "trial"

    id: Mapped[int] = mapped_column(primary_key=True)
    round_key: Mapped[str] = mapped_column(unique=True)
    setup_id: Mapped[int | None] = mapped_column(index=True)
    body_name: Mapped[str]
    lens_name: Mapped[str]
    taken_at: Mapped[dt.datetime]
    exercise: Mapped[str]
    aid: Mapped[str]
    scene: Mapped[str]
    seed: Mapped[int]
    stop: Mapped[float]
    error_deg: Mapped[float]
    z: Mapped[float | None]
    outcome: Mapped[dict[str, Any]] = mapped_column(JSON)


class EyeConstantRow(Base):
    """A constant of the eye that the photographer has put in place of the table's."""

    __tablename__ = "eye_constant"
    __table_args__: Any = {}

    id: Mapped[str] = mapped_column(primary_key=True)
    value: Mapped[float]


class SettingRow(Base):
    """A remembered choice, such as the set-up in hand."""

    __tablename__ = "setting"
    __table_args__: Any = {}

    key: Mapped[str] = mapped_column(primary_key=True)
    value: Mapped[str]


class FileRow(Base):
    """Bytes kept as a file in the data folder: the hash they are known by, and where they lie under it."""

    __tablename__ = "file"
    __table_args__: Any = {}

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
    __table_args__: Any = {}

    key: Mapped[str] = mapped_column(primary_key=True)
    at: Mapped[dt.datetime]
    became: Mapped[str]


class JournalRow(Base):
    """One undoable change: the rows before and after it; ``retired`` when an update of the tables left it behind."""

    __tablename__ = "journal"

    id: Mapped[int] = mapped_column(primary_key=True)
    label: Mapped[str]
    at: Mapped[dt.datetime]
    changes: Mapped[list[dict[str, Any]]] = mapped_column(JSON)
    undone: Mapped[bool] = mapped_column(default=False)
    retired: Mapped[bool] = mapped_column(default=False)
