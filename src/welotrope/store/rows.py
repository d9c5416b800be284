"""Rows by their key, and core dataclasses as the plain JSON values that rows hold."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

from pydantic import TypeAdapter

from welotrope.core.errors import UnreadableError
from welotrope.core.json_values import JsonObject
from welotrope.store.errors import BrokenRecordError, NotFoundError, why_unreadable
from welotrope.store.models import Base
from welotrope.store.unit_of_work import UnitOfWork

RowT = TypeVar("RowT", bound=Base)
ValueT = TypeVar("ValueT")
_adapters: dict[object, TypeAdapter[object]] = {}
VERSION = 1
VERSION_KEY = "v"


def fetch(uow: UnitOfWork, table: type[RowT], kind: str, id: int) -> RowT:
    """Return the row with this key; raises NotFoundError naming ``kind``."""
    row = uow.sql.get(table, id) if 0 < id < 2**63 else None
    if row is None:
        raise NotFoundError(kind, id)
    return row


def read_as(row: RowT, kind: str, read: Callable[[RowT], ValueT]) -> ValueT:
    """Return the value of a row; raises BrokenRecordError, which says why, for one that cannot be read."""
    why = why_unreadable(row, read)
    if why is not None:
        raise BrokenRecordError(kind, why)
    return read(row)


def to_json(value: object) -> Any:
    """Return a core dataclass as JSON values, with the version of this way of writing them under ``v``."""
    return {VERSION_KEY: VERSION, **_adapter(type(value)).dump_python(value, mode="json")}


def document(value: object, without: tuple[str, ...]) -> JsonObject:
    """Return a core dataclass as JSON values without the fields that have columns of their own."""
    return {key: held for key, held in to_json(value).items() if key not in without}


def from_json(kind: type[ValueT], data: object) -> ValueT:
    """Return the core dataclass that ``data`` describes; what was written before versions counts as the first.

    Raises
    ------
    pydantic.ValidationError
        When it does not fit.
    UnreadableError
        When a newer Welotrope wrote it.
    """
    version = data.get(VERSION_KEY, VERSION) if isinstance(data, dict) else VERSION
    if version != VERSION:
        raise UnreadableError("record", f"version {version}", "a newer Welotrope wrote it", "Install that version")
    held = {key: value for key, value in data.items() if key != VERSION_KEY} if isinstance(data, dict) else data
    made: ValueT = _adapter(kind).validate_python(held)
    return made


def _adapter(kind: Any) -> TypeAdapter[Any]:
    """Return the kept adapter of a kind: building one takes milliseconds."""
    if kind not in _adapters:
        _adapters[kind] = TypeAdapter(kind)
    return _adapters[kind]
