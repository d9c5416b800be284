"""Forms made from records: one text field for each input a record asks for."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping
from dataclasses import replace
from typing import Any, ClassVar, TypeVar

from pydantic import create_model

from welotrope.core.inputs import FormInput, Input, inputs_of, read_record, texts_of
from welotrope.core.json_values import JsonObject
from welotrope.core.kit.mount import Mount
from welotrope.web.forms.text_form import TextForm

FormT = TypeVar("FormT", bound="RecordForm")


class RecordForm(TextForm):
    """Fields of a record as typed."""

    record: ClassVar[type]

    @classmethod
    def of(cls: type[FormT], value: object) -> FormT:
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


def asks_for(record: type) -> Callable[[type[FormT]], type[FormT]]:
    """Give a form a field for each input that a record asks for."""
    return lambda form: _with_fields(form, record, form.__name__)


def _with_fields(form: type[FormT], record: type, name: str) -> type[FormT]:
    fields: JsonObject = {
        one.name: (list[str] if isinstance(one.usual, list) else str, one.usual) for one in inputs_of(record)
    }
    made: type[FormT] = create_model(name, __base__=form, __module__=form.__module__, __doc__=form.__doc__, **fields)
    made.record = record
    return made
