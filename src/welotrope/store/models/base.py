"""The base of all tables. Lengths in mm; infinity is stored as SQLite's infinite real, never as NULL."""

from __future__ import annotations

from sqlalchemy import MetaData
from sqlalchemy.orm import DeclarativeBase


class Base(DeclarativeBase):
    """Base of all tables, with named constraints so that migrations can address them."""

    # A key is never given twice: what was undone must not come back over a record of later.
    __table_args__: object = {"sqlite_autoincrement": True}

    metadata = MetaData(
        naming_convention={
            "ix": "ix_%(table_name)s_%(column_0_name)s",
            "uq": "uq_%(table_name)s_%(column_0_name)s",
            "fk": "fk_%(table_name)s_%(column_0_name)s",
            "pk": "pk_%(table_name)s",
        }
    )
