"""Tables of the hand: rounds, drills, test shots, and what was changed on the kit."""

from __future__ import annotations

import datetime as dt

from sqlalchemy import JSON, ForeignKey
from sqlalchemy.orm import Mapped, mapped_column

from welotrope.core.json_values import JsonObject
from welotrope.store.models.base import Base


class TrialRow(Base):
    """A round in the simulated finder. It keeps the kit's names, so that it outlives the kit's rows."""

    __tablename__ = "trial"

    id: Mapped[int] = mapped_column(primary_key=True)
    round_key: Mapped[str] = mapped_column(unique=True)
    setup_id: Mapped[int | None] = mapped_column(index=True)
    body_name: Mapped[str]
    lens_name: Mapped[str]
    taken_at: Mapped[dt.datetime]
    person: Mapped[str] = mapped_column(default="", server_default="")
    exercise: Mapped[str]
    aid: Mapped[str]
    scene: Mapped[str]
    seed: Mapped[int]
    stop: Mapped[float]
    error_deg: Mapped[float]
    z: Mapped[float | None]
    outcome: Mapped[JsonObject] = mapped_column(JSON)


class DrillRow(Base):
    """A trial away from the screen. It keeps the kit's names, so that it outlives the kit's rows."""

    __tablename__ = "drill"

    id: Mapped[int] = mapped_column(primary_key=True)
    person: Mapped[str] = mapped_column(default="")
    session: Mapped[str] = mapped_column(index=True)
    setup_id: Mapped[int | None]
    body_name: Mapped[str]
    lens_name: Mapped[str]
    taken_at: Mapped[dt.datetime]
    data: Mapped[JsonObject] = mapped_column(JSON)


class KitChangeRow(Base):
    """What was done to the kit so that focus lands better, and when: from then on it is watched whether it does."""

    __tablename__ = "kit_change"

    id: Mapped[int] = mapped_column(primary_key=True)
    setup_id: Mapped[int | None] = mapped_column(index=True)
    what: Mapped[str]
    note: Mapped[str] = mapped_column(default="")
    made_at: Mapped[dt.datetime]


class EyeConstantRow(Base):
    """A constant of the eye that the photographer has put in place of the table's."""

    __tablename__ = "eye_constant"
    __table_args__: object = {}

    id: Mapped[str] = mapped_column(primary_key=True)
    value: Mapped[float]


class ShotRow(Base):
    """A measured picture of a sheet. It keeps the kit's names, so that it outlives the kit's rows."""

    __tablename__ = "test_shot"

    id: Mapped[int] = mapped_column(primary_key=True)
    series: Mapped[str] = mapped_column(index=True)
    kind: Mapped[str]
    person: Mapped[str] = mapped_column(default="", server_default="")
    setup_id: Mapped[int | None] = mapped_column(index=True)
    body_name: Mapped[str]
    lens_name: Mapped[str]
    aid: Mapped[str] = mapped_column(default="", server_default="")
    taken_at: Mapped[dt.datetime]
    made_up: Mapped[bool] = mapped_column(default=False, server_default="0")
    preview_sha: Mapped[str | None] = mapped_column(ForeignKey("file.sha256"))
    data: Mapped[JsonObject] = mapped_column(JSON)
