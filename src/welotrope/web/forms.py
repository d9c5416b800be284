"""Forms: raw text in, core values or errors by field out; and those made from the inputs a record asks for."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping
from dataclasses import replace
from typing import Any, ClassVar, TypeVar

from pydantic import BaseModel, ConfigDict, create_model
from starlette.datastructures import FormData

from welotrope.core.inputs import FormInput, Input, inputs_of, read_record, texts_of
from welotrope.core.json_values import JsonObject
from welotrope.core.kit.mount import Mount
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


RecordFormT = TypeVar("RecordFormT", bound="RecordForm")


class RecordForm(TextForm):
    """Fields of a record as typed."""

    record: ClassVar[type]

    @classmethod
    def of(cls: type[RecordFormT], value: object) -> RecordFormT:
        """Fill the form from a record."""
        return cls(**texts_of(value))

    def value(self, mounts: Mapping[str, Mount]) -> tuple[Any, dict[str, str]]:
        """Return the record, or None with an error sentence per field; ``mounts`` are by name."""
        return read_record(self.record, FormInput(texts=self.model_dump(), known={"mounts": mounts}))

    def inputs(self, group: str) -> list[Input]:
        """Return the inputs that stand in one part of the form, in order; raises LookupError for a part without any."""
        found = [one for one in inputs_of(self.record) if one.group == group]
        if not found:
            raise LookupError(f"{self.record.__name__} asks for nothing in {group}")
        return found


def narrowed(one: Input, may: Mapping[str, Collection[str]]) -> Input:
    """Return an input with the options that may be chosen here; as it is where nothing is said of it."""
    if one.name not in may:
        return one
    return replace(one, options=tuple(option for option in one.options if option[0] in may[one.name]))


def record_form(record: type) -> type[RecordForm]:
    """Return the form of a record."""
    return _with_fields(RecordForm, record, f"{record.__name__}Form")


def asks_for(record: type) -> Callable[[type[RecordFormT]], type[RecordFormT]]:
    """Give a form a field for each input that a record asks for."""
    return lambda form: _with_fields(form, record, form.__name__)


def _with_fields(form: type[RecordFormT], record: type, name: str) -> type[RecordFormT]:
    fields: JsonObject = {
        one.name: (list[str] if isinstance(one.usual, list) else str, one.usual) for one in inputs_of(record)
    }
    made: type[RecordFormT] = create_model(
        name, __base__=form, __module__=form.__module__, __doc__=form.__doc__, **fields
    )
    made.record = record
    return made
