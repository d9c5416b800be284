"""What is asked of the photographer for a record: declared once, at the attribute it fills.

An :class:`Input` names the field, says how its text is read and written and what it may be. Forms, the checks of the
record, the columns of a CSV file, the descriptions in the JSON schema and the list of fields in the docs come from it.
"""

from __future__ import annotations

import dataclasses
import functools
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any, TypedDict, TypeVar, Unpack

from welotrope.core.errors import Field, OutOfRangeError, UnreadableError, WelotropeError
from welotrope.core.units.distance import Unit
from welotrope.core.units.text import check_name, number, whole_number, write_number

RecordT = TypeVar("RecordT")
Value = TypeVar("Value")
Text = str | list[str]
_ASKS = "asks"


class Ask(StrEnum):
    """How an input is asked for."""

    TEXT = "text"
    CHOICE = "choice"  # one of a list
    PICK = "pick"  # one of a few, each with its words
    MANY = "many"  # any of a few
    TICK = "tick"  # yes or nothing
    NAMED = "named"  # one of the things already entered, by name


class Group(StrEnum):
    """The parts of forms that inputs stand in; a form shows those that its template asks for."""

    MAIN = "main"
    NAME = "name"
    KIND = "kind"
    AIDS = "aids"
    CAMERA = "camera"
    CHOSEN = "chosen"
    FILM = "film"
    FINDER = "finder"
    FIT = "fit"
    FIXED = "fixed"
    FOUND = "found"
    HABITS = "habits"
    HELD = "held"
    ISO = "iso"
    JOINT = "joint"
    LENS = "lens"
    LIGHT = "light"
    LOG = "log"
    MEANT = "meant"
    METER = "meter"
    MOUNT = "mount"
    MOVES = "moves"
    MOVING = "moving"
    NOTE = "note"
    PAPER = "paper"
    RING = "ring"
    ROLL = "roll"
    SCENE = "scene"
    SHARPEST = "sharpest"
    SHEET = "sheet"
    STACK = "stack"
    TICKS = "ticks"
    TYPICAL = "typical"
    ZONE = "zone"
    ZOOM = "zoom"


@dataclass(frozen=True, kw_only=True)
class FormInput:
    """A form as typed, and what it is read by.

    Parameters
    ----------
    texts
        Its texts by name.
    known
        The things already entered, by kind and name.
    bare
        Unit of a distance that is written without one.
    mm_per_degree
        Millimetres along the ring for one degree of it; None when its diameter is not known.
    """

    texts: Mapping[str, Text]
    known: Mapping[str, Mapping[str, object]] = field(default_factory=dict)
    bare: Unit = Unit.METRIC
    mm_per_degree: float | None = None

    def text(self, name: str) -> str:
        """Return what was typed into an input of one text; '' when nothing."""
        said = self.texts.get(name, "")
        return said if isinstance(said, str) else ""

    def many(self, name: str) -> list[str]:
        """Return what was chosen of an input that takes any of a few."""
        said = self.texts.get(name, [])
        return [said] if isinstance(said, str) else list(said)


class InputOptions(TypedDict, total=False):
    """What a shorthand for a kind of input hands on to :class:`Input`, under the same names."""

    also: tuple[str, ...]
    hint: str
    per: float
    valid: Callable[..., object] | None
    problem: str
    example: str
    example_ft: str
    offers: tuple[tuple[str, str], ...]
    group: StrEnum
    columns: tuple[str, ...]
    optional: bool


class ValueOptions(InputOptions, total=False):
    """What else is handed on for a value that is written."""

    usual: Text
    half_empty: str
    empty: object


class NumberOptions(ValueOptions, total=False):
    """What else is handed on for a number."""

    write: Callable[..., Text]
    mode: str
    low: float | None
    high: float | None


class ChoiceOptions(InputOptions, total=False):
    """What else is handed on for one of a list."""

    ask: Ask
    options: tuple[tuple[str, str], ...]
    empty: object


@dataclass(frozen=True, kw_only=True)
class Input:
    """One input.

    Parameters
    ----------
    name
        Of the form's input.
    field
        Its words in sentences, and the key errors are found by.
    also
        Further keys of errors that are shown at it.
    label, unit, hint
        As it stands in the form.
    read
        Text (what was chosen, for many) and the whole form to the value; raises WelotropeError.
    write
        The value back to text.
    low, high
        Limits of the value where it is a number, in the unit it is written in.
    per
        What a written unit of the value is in the record's, such as 1000 for metres kept in mm.
    valid
        What else is checked of a value; raises WelotropeError.
    problem
        What is said of one beyond the limits.
    optional, empty
        Whether it may be left empty, and what it is then.
    ask, options
        How it is asked for, and among what: pairs of value and words.
    usual
        What a new form begins with.
    example, example_ft
        What a fitting text looks like, shown while it is empty; where numbers alone are feet, the second.
    half_empty
        What would work, where it is left empty in a row of readings that holds something else.
    offers
        What is offered to be typed: pairs of text and what it is called.
    things
        Kind of thing that is chosen by name; it can be made on the way.
    group
        Part of the form it stands in.
    columns
        Names of its column in a CSV file, the usual one first.
    """

    name: str
    field: Field
    label: str
    read: Callable[[Any, FormInput], Any]
    write: Callable[..., Text] = write_number
    also: tuple[str, ...] = ()
    unit: str = ""
    hint: str = ""
    mode: str = ""
    low: float | None = None
    high: float | None = None
    per: float = 1.0
    valid: Callable[..., object] | None = None
    problem: str = "out of range"
    optional: bool = False
    empty: object = None
    ask: Ask = Ask.TEXT
    options: tuple[tuple[str, str], ...] = ()
    usual: Text = ""
    example: str = ""
    example_ft: str = ""
    half_empty: str = ""
    offers: tuple[tuple[str, str], ...] = ()
    things: str = ""
    group: StrEnum = Group.MAIN
    columns: tuple[str, ...] = ()

    def check(self, value: Any) -> None:
        """Raise WelotropeError for a value that may not be; one that is not known passes."""
        if value is None:
            return
        if self.valid is not None:
            self.valid(value)
        if self.low is not None and self.high is not None and not self.low <= value / self.per <= self.high:
            unit = f" {self.unit}" if self.unit else ""
            works = f"Write {self.low:g} to {self.high:g}{unit}"
            raise OutOfRangeError(self.field, f"{value / self.per:g}{unit}", self.problem, works)

    def take(self, reader: Reader, typed: FormInput) -> Any:
        """Read it from a form, noting an error with the reader."""
        return reader.take(self.name, lambda: self.value(typed), self.empty)

    def must(self, reader: Reader, typed: FormInput) -> Any:
        """Read it from a form where it may not be left empty, because of what else was typed."""
        return reader.take(self.name, lambda: self.read(self.said(typed), typed), self.empty)

    def value(self, typed: FormInput) -> Any:
        """Return its value; raises WelotropeError for a text that cannot be read."""
        said = self.said(typed)
        if self.optional and not said:
            return self.empty
        if self.half_empty and not said:
            raise UnreadableError(self.field, "", "the row is half empty", self.half_empty)
        return self.read(said, typed)

    def said(self, typed: FormInput) -> Any:
        """Return what was typed for it."""
        return typed.many(self.name) if self.ask is Ask.MANY else typed.text(self.name)


@dataclass(frozen=True, kw_only=True)
class CompositeField:
    """Several inputs that make one attribute: how they are read together, and written apart."""

    inputs: tuple[Input, ...]
    made: Callable[[Reader, FormInput], object]
    texts: Callable[..., dict[str, Text]]
    description: str = ""

    def take(self, reader: Reader, typed: FormInput) -> object:
        """Read it from a form, noting errors with the reader: what it is made of keeps its limits each by itself."""
        for one in self.inputs:
            if not one.said(typed):
                continue
            try:
                value = one.value(typed)
            except WelotropeError:
                continue  # what cannot be read is told where it is needed
            reader.take(one.name, functools.partial(one.check, value), None)
        return self.made(reader, typed)


class Reader:
    """Collects the errors of a form while its fields are read one by one."""

    def __init__(self) -> None:
        self.errors: dict[str, str] = {}

    def take(self, name: str, read: Callable[[], Value], otherwise: Value) -> Value:
        """Return what ``read`` gives, or note its error under ``name`` and return ``otherwise``."""
        try:
            return read()
        except WelotropeError as error:
            self.errors.setdefault(name, error.sentence)
            return otherwise

    def optional(self, name: str, text: str, read: Callable[[str], Value]) -> Value | None:
        """Read a field that may be left empty."""
        return self.take(name, lambda: read(text), None) if text else None


def field_spec(asked: Input | CompositeField) -> dict[str, object]:
    """Return the metadata of an attribute that is asked for; the JSON schema takes its description from it.

    Parameters
    ----------
    asked
        What is asked for.
    """
    if isinstance(asked, CompositeField):
        return {_ASKS: asked, **({"description": asked.description} if asked.description else {})}
    words = asked.label + (f" ({asked.unit})" if asked.unit else "") + (f". {asked.hint}" if asked.hint else "")
    return {_ASKS: asked, "description": words}


def subform(kind: type) -> dict[str, object]:
    """Return the metadata of an attribute that is a record with inputs of its own.

    Parameters
    ----------
    kind
        Class of the record, whose attributes carry their inputs.
    """

    def take(reader: Reader, typed: FormInput) -> object:
        values = take_all(kind, reader, typed)
        try:
            return kind(**values)
        except WelotropeError as error:
            reader.errors.setdefault(shown_at(kind, error), error.sentence)
            return None

    return field_spec(CompositeField(inputs=inputs_of(kind), made=take, texts=texts_of))


_cached: dict[type, tuple[tuple[str, Input | CompositeField], ...]] = {}


def _asked(kind: type) -> tuple[tuple[str, Input | CompositeField], ...]:
    if kind not in _cached:
        _cached[kind] = tuple((f.name, f.metadata[_ASKS]) for f in dataclasses.fields(kind) if _ASKS in f.metadata)
    return _cached[kind]


def attributes_of(kind: type) -> tuple[tuple[str, Input], ...]:
    """Return the attributes of a record that one input fills, each with it.

    Parameters
    ----------
    kind
        Class of the record, whose attributes carry their inputs.
    """
    return tuple((name, asked) for name, asked in _asked(kind) if isinstance(asked, Input))


def inputs_of(kind: type) -> tuple[Input, ...]:
    """Return every input of a record, in order, each name once.

    Parameters
    ----------
    kind
        Class of the record, whose attributes carry their inputs.
    """
    return tuple({one.name: one for one in _every(kind)}.values())


def _every(kind: type) -> Iterator[Input]:
    for _, asked in _asked(kind):
        yield from asked.inputs if isinstance(asked, CompositeField) else (asked,)


def texts_of(value: object) -> dict[str, Text]:
    """Return a record as the texts of its form.

    Parameters
    ----------
    value
        The record.
    """
    texts: dict[str, Text] = {}
    for name, asked in _asked(type(value)):
        held = getattr(value, name)
        texts |= asked.texts(held) if isinstance(asked, CompositeField) else {asked.name: asked.write(held)}
    return texts


def read_record(kind: type[RecordT], typed: FormInput) -> tuple[RecordT | None, dict[str, str]]:
    """Return the record that a form describes, or None with an error sentence per input.

    Parameters
    ----------
    kind
        Class of the record, whose attributes carry their inputs.
    typed
        Texts of the form by name.
    """
    reader = Reader()
    values = take_all(kind, reader, typed)
    if reader.errors:
        return None, reader.errors
    try:
        return kind(**values), {}
    except WelotropeError as error:
        return None, {shown_at(kind, error): error.sentence}


def read_row(kind: type[RecordT], typed: FormInput) -> RecordT:
    """Return the record that a row of a table describes; raises WelotropeError for its first cell that is wrong.

    Parameters
    ----------
    kind
        Class of the record, whose attributes carry their inputs.
    typed
        Texts of the form by name.
    """
    return kind(**{name: one.value(typed) for name, one in attributes_of(kind)})


def take_all(kind: type, reader: Reader, typed: FormInput) -> dict[str, Any]:
    """Read every attribute that a record asks for, noting errors with the reader.

    Parameters
    ----------
    kind
        Class of the record, whose attributes carry their inputs.
    reader
        Collects the errors of the form.
    typed
        Texts of the form by name.
    """
    return {name: asked.take(reader, typed) for name, asked in _asked(kind)}


def shown_at(kind: type, error: WelotropeError) -> str:
    """Return the name of the input an error is shown at: by its key, else the first of the record.

    Parameters
    ----------
    kind
        Class of the record, whose attributes carry their inputs.
    error
        What was wrong with the record.
    """
    inputs = inputs_of(kind)
    found = next((one for one in inputs if error.key in (one.field.key, one.name, *one.also)), inputs[0])
    return found.name


def check_limits(record: object) -> None:
    """Check every value of a record by its input; raises WelotropeError.

    Parameters
    ----------
    record
        Record whose attributes carry their inputs.
    """
    for name, asked in _asked(type(record)):
        if isinstance(asked, Input):
            asked.check(getattr(record, name))


def name_input(field: Field, *, label: str = "Name", hint: str = "", columns: tuple[str, ...] = ()) -> Input:
    """Return the input of a name.

    Parameters
    ----------
    field
        What an error names, with its stable key.
    label
        What the input is called on the page.
    hint
        How to find the value.
    columns
        What the column may be called in a table that is read.
    """
    return Input(
        name="name", field=field, label=label, hint=hint, columns=columns,
        read=lambda text, _typed: check_name(text, field), write=str,
    )  # fmt: skip


def number_input(
    name: str, field: Field, label: str, *, unit: str = "", says: str = "", **more: Unpack[NumberOptions]
) -> Input:
    """Return the input of a number that need not be known; ``says`` is its name where it cannot be read.

    Parameters
    ----------
    name
        Name of the input in its form.
    field
        What an error names, with its stable key.
    label
        What the input is called on the page.
    unit
        Unit that may stand behind the number.
    says
        What the number is called where it cannot be read.
    **more
        Further options of the input.
    """
    more.setdefault("mode", "decimal")
    more.setdefault("optional", True)
    return Input(
        name=name, field=field, label=label, unit=unit,
        read=lambda text, _typed: number(text, says or field, unit=unit), **more,
    )  # fmt: skip


def whole_input(name: str, field: Field, label: str, low: int, high: int, **more: Unpack[ValueOptions]) -> Input:
    """Return the input of a whole number within limits.

    Parameters
    ----------
    name
        Name of the input in its form.
    field
        What an error names, with its stable key.
    label
        What the input is called on the page.
    low
        Least value allowed.
    high
        Greatest value allowed.
    **more
        Further options of the input.
    """
    more.setdefault("optional", True)
    return Input(
        name=name, field=field, label=label, mode="numeric", low=low, high=high,
        read=lambda text, _typed: whole_number(text, field, low, high),
        write=lambda value: str(value or ""), **more,
    )  # fmt: skip


def choice_input(
    name: str, label: str, kind: type[StrEnum], otherwise: StrEnum, **more: Unpack[ChoiceOptions]
) -> Input:
    """Return the input of one member of a list; what is none of it counts as ``otherwise``.

    Parameters
    ----------
    name
        Name of the input in its form.
    label
        What the input is called on the page.
    kind
        Class of the list's members.
    otherwise
        Member that anything else counts as.
    **more
        Further options of the input.
    """
    more.setdefault("ask", Ask.CHOICE)
    more.setdefault("options", tuple((member.value, member.value) for member in kind))
    return Input(
        name=name, field=Field(name, label.lower()), label=label, usual=otherwise.value,
        read=lambda text, _typed: kind(text) if text in set(kind) else otherwise, write=lambda value: str(value.value),
        **more,
    )  # fmt: skip


def tick_input(name: str, label: str, *, group: StrEnum = Group.MAIN) -> Input:
    """Return the input of a yes or nothing.

    Parameters
    ----------
    name
        Name of the input in its form.
    label
        What the input is called on the page.
    group
        Part of the form that the input belongs to.
    """
    return Input(
        name=name, field=Field(name, label.lower()), label=label, ask=Ask.TICK, optional=True, empty=False,
        read=lambda text, _typed: bool(text), write=lambda value: "yes" if value else "", group=group,
    )  # fmt: skip
