"""Core dataclasses as plain JSON values and back, checked by their own rules."""

from __future__ import annotations

from typing import Any, TypeVar

from pydantic import TypeAdapter

from welotrope.core.errors import UnreadableError
from welotrope.core.json_values import JsonObject

ValueT = TypeVar("ValueT")
_adapters: dict[object, TypeAdapter[object]] = {}


VERSION = 1
VERSION_KEY = "v"


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
