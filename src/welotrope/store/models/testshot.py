"""The table of test shots."""

from __future__ import annotations

import datetime as dt

from sqlalchemy import JSON, ForeignKey
from sqlalchemy.orm import Mapped, mapped_column

from welotrope.core.json_values import JsonObject
from welotrope.store.models.base import Base


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
