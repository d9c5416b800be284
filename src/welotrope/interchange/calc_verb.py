"""What a stand-alone calculation is: its parameters, how they are read, its function and its result."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import asdict, dataclass, field
from enum import StrEnum
from typing import Any

from welotrope.core.errors import UnreadableError, WelotropeError
from welotrope.core.json_values import JsonObject
from welotrope.core.optics.thin_lens import Datum
from welotrope.core.units.distance import check_distance, parse_distance
from welotrope.core.units.exposure import parse_stop

MAX_READINGS = 60


def as_json(result: Any) -> JsonObject:
    """Return a result's fields, with infinity as None also inside lists of records."""
    return {key: _plain(value) for key, value in asdict(result).items()}


def _plain(value: object) -> object:
    if isinstance(value, list | tuple):
        return [_plain(item) for item in value]
    if isinstance(value, dict):
        return {key: _plain(item) for key, item in value.items()}
    return None if isinstance(value, float) and math.isinf(value) else value


class ParameterKind(StrEnum):
    """What a parameter is, and so how its text is read."""

    NUMBER = "number"
    SHARE = "share"  # a percentage on the command line
    STOP = "stop"
    DISTANCE = "distance"
    READINGS = "readings"
    COUNT = "count"  # a whole number
    NUMBERS = "numbers"  # any number of them
    FLAG = "flag"  # yes, or nothing


@dataclass(frozen=True, kw_only=True)
class Parameter:
    """A parameter of a verb.

    Parameters
    ----------
    name
        Its key in JSON.
    option
        Its option on the command line, without the dashes.
    help
        What it is, with its unit.
    kind
        How it is read.
    argument
        Its name in the function; else ``name``, with ``_mm`` for a distance.
    words
        Its name in messages; else ``option``.
    required
        Whether it must be given.
    example
        A value for the documentation.
    """

    name: str
    option: str
    help: str
    kind: ParameterKind = ParameterKind.NUMBER
    argument: str = ""
    words: str = ""
    required: bool = True
    example: float | None = None

    @property
    def passed_as(self) -> str:
        """Its name in the function."""
        return self.argument or (f"{self.name}_mm" if self.kind is ParameterKind.DISTANCE else self.name)

    def of_text(self, text: Any) -> object:
        """Return the value of what stands on a command line; raises WelotropeError."""
        if self.kind is ParameterKind.STOP:
            return parse_stop(text)
        if self.kind is ParameterKind.DISTANCE:
            return parse_distance(text, field=self.words or self.option)
        if self.kind is ParameterKind.READINGS:
            return [_reading(part) for part in text]
        if self.kind is ParameterKind.NUMBERS:
            return tuple(text)
        return text / 100 if self.kind is ParameterKind.SHARE else text

    def of_json(self, value: Any) -> object:
        """Return the value of what a JSON request holds; raises WelotropeError."""
        if self.kind is ParameterKind.DISTANCE:
            return millimetres(value, self.words or self.name)
        if self.kind is ParameterKind.READINGS:
            return [(reading.angle_deg, millimetres(reading.distance, "distance")) for reading in value]
        return value


@dataclass(frozen=True, kw_only=True)
class Verb:
    """A calculation.

    Parameters
    ----------
    name, help
        Its word, and what it tells in a sentence.
    parameters
        In the order of the command line; the datum comes besides.
    function, result
        What computes it, and the dataclass it returns.
    needs
        Fields of the result that need parameters: the command line leaves them out without those.
    flat
        Whether it can be asked for in a query string too.
    datums
        Planes its distances may start from, the usual one first.
    """

    name: str
    help: str
    parameters: tuple[Parameter, ...]
    function: Callable[..., object]
    result: type[object]
    needs: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    flat: bool = True
    datums: tuple[Datum, ...] = (Datum.FILM, Datum.PRINCIPAL)

    def from_text(self, given: Mapping[str, object], datum: Datum) -> JsonObject:
        """Compute from command-line values by option; None is not given. Raises WelotropeError."""
        values = {p: None if given[p.option] is None else p.of_text(given[p.option]) for p in self.parameters}
        found = self._compute(values, datum)
        known = {parameter.name for parameter, value in values.items() if value is not None}
        return {
            key: value for key, value in found.items() if value is not None or known >= set(self.needs.get(key, ()))
        }

    def from_json(self, given: Mapping[str, object], datum: Datum) -> JsonObject:
        """Compute from JSON values by name; None is not given. Raises WelotropeError."""
        values = {p: None if given[p.name] is None else p.of_json(given[p.name]) for p in self.parameters}
        return self._compute(values, datum)

    def _compute(self, values: Mapping[Parameter, object], datum: Datum) -> JsonObject:
        if datum not in self.datums:
            raise UnreadableError(
                "from", datum.value, f"{self.name} reckons from the {self.datums[0].value} plane only",
                f"Leave it out, or write {self.datums[0].value}",
            )  # fmt: skip
        given = {p.passed_as: value for p, value in values.items() if value is not None}
        return as_json(self.function(datum=datum, **given))


def millimetres(value: float | str, field: str) -> float:
    """Read a distance given as a number of mm or as text; a bare number as text is mm too."""
    try:
        return check_distance(float(value), field=field)
    except WelotropeError:
        raise
    except ValueError:
        return parse_distance(str(value), field=field)


def _reading(text: str) -> tuple[float, float]:
    angle, colon, distance = text.partition(":")
    try:
        degrees = float(angle.strip().removesuffix("°"))
    except ValueError:
        degrees = math.nan
    if not colon or not math.isfinite(degrees):
        raise UnreadableError(
            "point", text, "that is not an angle and a distance", "Write degrees, a colon, a distance, such as 48.6:2m"
        )
    return degrees, parse_distance(distance, field="point")


def focal(example: float) -> Parameter:
    """Return the parameter of a focal length."""
    return Parameter(name="focal_mm", option="focal", help="Focal length, mm.", example=example)


def stop(example: float, *, help: str = "f-number.") -> Parameter:
    """Return the parameter of an f-number."""
    return Parameter(name="stop", option="stop", help=help, kind=ParameterKind.STOP, example=example)


def blur(example: float) -> Parameter:
    """Return the parameter of an acceptable blur circle."""
    return Parameter(name="blur_mm", option="blur", help="Acceptable blur circle, mm.", example=example)


def distance(name: str, help: str, *, words: str = "", required: bool = True) -> Parameter:
    """Return a parameter that is a distance."""
    return Parameter(name=name, option=name, help=help, kind=ParameterKind.DISTANCE, words=words, required=required)


def optional(
    name: str,
    option: str,
    help: str,
    *,
    kind: ParameterKind = ParameterKind.NUMBER,
    argument: str = "",
    example: float | None = None,
) -> Parameter:
    """Return a parameter that may be left out."""
    return Parameter(name=name, option=option, help=help, kind=kind, argument=argument, required=False, example=example)
