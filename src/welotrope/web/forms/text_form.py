"""Forms: raw text in, core values or errors by field out, the text kept either way."""

from __future__ import annotations

from typing import TypeVar

from pydantic import BaseModel, ConfigDict
from starlette.datastructures import FormData

from welotrope.core.units.text import NAME_LIMIT, check_name

FormT = TypeVar("FormT", bound="TextForm")
KEPT_TEXT = 12_000
KEPT_ROWS = 600


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


def required_name(text: str, field: str, *, limit: int = NAME_LIMIT) -> str:
    """Return a name of 1 to ``limit`` characters, all of which can be shown."""
    return check_name(text, field, limit=limit)


def key_of(text: str) -> int | None:
    """Return the key of a record written as a number, or None when it is none a record can have."""
    return int(text) if text.isascii() and text.isdigit() and len(text) <= 18 else None
