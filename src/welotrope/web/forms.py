"""Forms: raw text in, core values or errors by field out, the text kept either way."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Mapping
from typing import TypeVar

from pydantic import BaseModel, ConfigDict
from starlette.datastructures import FormData

from welotrope.core.errors import OutOfRangeError, UnreadableError, WelotropeError
from welotrope.core.units.text import NAME_LIMIT, check_name

Value = TypeVar("Value")
FormT = TypeVar("FormT", bound="TextForm")
KEPT_TEXT = 12_000
KEPT_ROWS = 600
_NUMBER = re.compile(r"^[+-]?(?:\d{1,15}(?:[.,]\d{0,20})?|[.,]\d{1,20})(?:e[+-]?\d{1,2})?$", re.ASCII)


class TextForm(BaseModel):
    """A form whose fields are the text as typed."""

    model_config = ConfigDict(frozen=True, str_strip_whitespace=True, extra="ignore")

    @classmethod
    def read(cls: type[FormT], data: FormData) -> FormT:
        """Take the known text fields of a submitted form; a list field takes every value of its name."""
        values: dict[str, object] = {}
        for name, field in cls.model_fields.items():
            if field.annotation is str:
                values[name] = str(data.get(name, field.default))[:KEPT_TEXT]
            else:
                values[name] = [str(value)[:KEPT_TEXT].strip() for value in data.getlist(name)][:KEPT_ROWS]
        return cls(**values)


class Reader:
    """Collects the errors of a form while its fields are read one by one."""

    def __init__(self) -> None:
        self.errors: dict[str, str] = {}

    def take(self, field: str, read: Callable[[], Value], otherwise: Value) -> Value:
        """Return what ``read`` gives, or note its error under ``field`` and return ``otherwise``."""
        try:
            return read()
        except WelotropeError as error:
            self.errors.setdefault(field, error.sentence)
            return otherwise

    def optional(self, field: str, text: str, read: Callable[[str], Value]) -> Value | None:
        """Read a field that may be left empty."""
        return self.take(field, lambda: read(text), None) if text else None


def required_name(text: str, field: str, limit: int = NAME_LIMIT) -> str:
    """Return a name of 1 to ``limit`` characters, all of which can be shown."""
    return check_name(text, field, limit)


def key_of(text: str) -> int | None:
    """Return the key of a record written as a number, or None when it is none a record can have."""
    return int(text) if text.isascii() and text.isdigit() and len(text) <= 18 else None


def field_of(error: WelotropeError, form: type[TextForm], called: Mapping[str, str] | None = None) -> str:
    """Return the form's field that an error is shown at: by its stable key, else at the name."""
    name = (called or {}).get(error.key, error.key)
    return name if name in form.model_fields else "name"


def number(text: str, field: str, unit: str = "") -> float:
    """Read a plain decimal number with a point or a comma, its unit allowed behind it."""
    cleaned = text.strip().lower()
    for suffix in (unit.lower(), "°", "×", "x"):
        if suffix:
            cleaned = cleaned.removesuffix(suffix).strip()
    value = float(cleaned.replace(",", ".")) if _NUMBER.match(cleaned) else math.nan
    if not -1e12 < value < 1e12:
        raise UnreadableError(field, text, "that is not a number", f"Write a number{f' in {unit}' if unit else ''}")
    return value


def whole_number(text: str, field: str, low: int, high: int) -> int:
    """Read a whole number within limits."""
    value = number(text, field)
    if value != int(value) or not low <= value <= high:
        raise OutOfRangeError(field, text, "out of range", f"Write a whole number from {low} to {high}")
    return int(value)
