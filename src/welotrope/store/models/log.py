"""Tables of the log: outings, rolls, frames, and the pictures of them."""

from __future__ import annotations

import datetime as dt

from sqlalchemy import JSON, ForeignKey, Index
from sqlalchemy.orm import Mapped, mapped_column, relationship

from welotrope.core.json_values import JsonObject
from welotrope.store.models.base import Base


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
    data: Mapped[JsonObject] = mapped_column(JSON)


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


class FrameCountRow(Base):
    """How many frames of a mark an outing has (an empty mark for none); the database itself keeps it."""

    __tablename__ = "frame_count"
    __table_args__: object = {}

    outing_id: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    outcome: Mapped[str] = mapped_column(primary_key=True)
    frames: Mapped[int]


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
    exif: Mapped[JsonObject] = mapped_column(JSON, default=dict)
    batch: Mapped[str] = mapped_column(index=True)
    outing_id: Mapped[int | None] = mapped_column(ForeignKey("outing.id", ondelete="SET NULL"), index=True)
    frame_id: Mapped[int | None] = mapped_column(ForeignKey("frame.id", ondelete="SET NULL"), index=True)
    thumb_sha: Mapped[str | None] = mapped_column(ForeignKey("file.sha256"))
    preview_sha: Mapped[str | None] = mapped_column(ForeignKey("file.sha256"))
    original_sha: Mapped[str | None] = mapped_column(ForeignKey("file.sha256"))


class PictureMapRow(Base):
    """What was measured in a picture; made again when it is gone, so that undo need not keep it."""

    __tablename__ = "picture_map"
    __table_args__: object = {}

    picture_id: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    data: Mapped[JsonObject] = mapped_column(JSON)


class PictureImportRow(Base):
    """An import of pictures: from where, and what came of it; its report outlives the job."""

    __tablename__ = "picture_import"
    __table_args__: object = {}

    batch: Mapped[str] = mapped_column(primary_key=True)
    source: Mapped[str]
    at: Mapped[dt.datetime]
    added: Mapped[int] = mapped_column(default=0)
    known: Mapped[int] = mapped_column(default=0)
    refused: Mapped[list[str]] = mapped_column(JSON, default=list)
    ended: Mapped[str] = mapped_column(default="")


class SidecarRow(Base):
    """A sidecar that is being or was written: what was there before, by its hash, what it is to hold, how far it is."""

    __tablename__ = "sidecar"

    id: Mapped[int] = mapped_column(primary_key=True)
    batch: Mapped[str] = mapped_column(index=True)
    picture_id: Mapped[int]
    path: Mapped[str]
    before_sha: Mapped[str | None] = mapped_column(ForeignKey("file.sha256"))
    after_sha: Mapped[str]
    written: Mapped[dt.datetime]
    state: Mapped[str] = mapped_column(default="written", server_default="written")
