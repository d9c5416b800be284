"""Core dataclasses as plain JSON values and back, checked by their own rules."""

from __future__ import annotations

from typing import Any, TypeVar

from pydantic import TypeAdapter

ValueT = TypeVar("ValueT")
_adapters: dict[Any, TypeAdapter[Any]] = {}


def to_json(value: Any) -> Any:
    """Return a core dataclass as JSON values."""
    return _adapter(type(value)).dump_python(value, mode="json")


def from_json(kind: type[ValueT], data: Any) -> ValueT:
    """Return the core dataclass that ``data`` describes; raises pydantic.ValidationError when it does not fit."""
    value: ValueT = _adapter(kind).validate_python(data)
    return value


def _adapter(kind: Any) -> TypeAdapter[Any]:
    """Return the kept adapter of a kind: building one takes milliseconds."""
    if kind not in _adapters:
        _adapters[kind] = TypeAdapter(kind)
    return _adapters[kind]
