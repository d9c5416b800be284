"""The calculations that stand alone, each declared once: its parameters, function and result.

The command line, the JSON API, their documentation and their tests are made from this table.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any

from welotrope.core.errors import UnreadableError, WelotropeError
from welotrope.core.optics.datum import Datum
from welotrope.core.plan import calculations
from welotrope.core.ring.adapter_error import AdapterEffect, adapter_effect
from welotrope.core.units.distance import check_distance, parse_distance
from welotrope.core.units.stops import parse_stop
from welotrope.interchange.calc_json import as_json

MAX_READINGS = 60


class ParameterKind(StrEnum):
    """What a parameter is, and so how its text is read."""

    NUMBER = "number"
    SHARE = "share"  # a percentage on the command line
    STOP = "stop"
    DISTANCE = "distance"
    READINGS = "readings"


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

    def of_text(self, text: Any) -> Any:
        """Return the value of what stands on a command line; raises WelotropeError."""
        if self.kind is ParameterKind.STOP:
            return parse_stop(text)
        if self.kind is ParameterKind.DISTANCE:
            return parse_distance(text, field=self.words or self.option)
        if self.kind is ParameterKind.READINGS:
            return [_reading(part) for part in text]
        return text / 100 if self.kind is ParameterKind.SHARE else text

    def of_json(self, value: Any) -> Any:
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
    """

    name: str
    help: str
    parameters: tuple[Parameter, ...]
    function: Callable[..., Any]
    result: type[Any]
    needs: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    flat: bool = True

    def from_text(self, given: Mapping[str, Any], datum: Datum) -> dict[str, Any]:
        """Compute from command-line values by option; None is not given. Raises WelotropeError."""
        values = {p: None if given[p.option] is None else p.of_text(given[p.option]) for p in self.parameters}
        found = self._compute(values, datum)
        known = {parameter.name for parameter, value in values.items() if value is not None}
        return {
            key: value for key, value in found.items() if value is not None or known >= set(self.needs.get(key, ()))
        }

    def from_json(self, given: Mapping[str, Any], datum: Datum) -> dict[str, Any]:
        """Compute from JSON values by name; None is not given. Raises WelotropeError."""
        values = {p: None if given[p.name] is None else p.of_json(given[p.name]) for p in self.parameters}
        return self._compute(values, datum)

    def _compute(self, values: Mapping[Parameter, Any], datum: Datum) -> dict[str, Any]:
        return as_json(self.function(datum=datum, **{p.passed_as: value for p, value in values.items()}))


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


def _focal(example: float) -> Parameter:
    return Parameter(name="focal_mm", option="focal", help="Focal length, mm.", example=example)


def _stop(example: float, help: str = "f-number.") -> Parameter:
    return Parameter(name="stop", option="stop", help=help, kind=ParameterKind.STOP, example=example)


def _blur(example: float) -> Parameter:
    return Parameter(name="blur_mm", option="blur", help="Acceptable blur circle, mm.", example=example)


def _distance(name: str, help: str, words: str = "", *, required: bool = True) -> Parameter:
    return Parameter(name=name, option=name, help=help, kind=ParameterKind.DISTANCE, words=words, required=required)


def _optional(
    name: str, option: str, help: str, kind: ParameterKind = ParameterKind.NUMBER, argument: str = ""
) -> Parameter:
    return Parameter(name=name, option=option, help=help, kind=kind, argument=argument, required=False)


_FOCUS = _distance("focus", "Focus distance, e.g. 2500mm, 2.5m, 8ft, inf.", "focus distance")
_DIAMETER = _optional("diameter_mm", "diameter", "Ring diameter, mm.")
_LEAD_HELP = "Helicoid lead, mm a turn."

VERBS: tuple[Verb, ...] = (
    Verb(
        name="depth",
        help="Near and far limits, and the hyperfocal distance.",
        parameters=(_focal(40), _stop(11), _blur(0.028), _FOCUS),
        function=calculations.depth,
        result=calculations.DepthResult,
    ),
    Verb(
        name="zone",
        help="Where to focus and which stop for a zone.",
        parameters=(
            _focal(35), _distance("near", "Nearest subject."), _distance("far", "Farthest subject."), _blur(0.03),
        ),
        function=calculations.zone,
        result=calculations.ZoneResult,
    ),
    Verb(
        name="ring",
        help="Ring angle from infinity and the width of the sharp window.",
        parameters=(
            _focal(50), Parameter(name="lead_mm", option="lead", help=_LEAD_HELP, example=10.8), _stop(2), _blur(0.03),
            _FOCUS, _DIAMETER,
        ),
        function=calculations.ring,
        result=calculations.RingResult,
        needs={"window_mm": ("diameter_mm",)},
    ),
    Verb(
        name="adapter",
        help="Whether infinity is reached with an adapter that is too thick or thin, and where it falls.",
        parameters=(
            _focal(50),
            Parameter(name="error_mm", option="error", help="Thickness error, mm; positive is too thick.", example=0.1),
            _optional("lead_mm", "lead", _LEAD_HELP),
            _DIAMETER,
        ),
        function=adapter_effect,
        result=AdapterEffect,
        needs={"infinity_deg": ("lead_mm",), "infinity_mm": ("lead_mm", "diameter_mm")},
    ),
    Verb(
        name="throw",
        help="Lead of a ring from readings, where infinity lies, what kind it is, and which readings do not belong.",
        parameters=(
            _focal(50),
            Parameter(
                name="readings", option="point", kind=ParameterKind.READINGS,
                help="Ring angle in degrees and distance, e.g. 48.6:2m or 0:inf; one each.",
            ),
            _optional("error_deg", "error", "Reading error, degrees; else 0.5."),
            _optional(
                "distance_error", "distance-error", "Error of a distance, percent; else the larger of 1 % and 5 mm.",
                ParameterKind.SHARE,
            ),
        ),
        function=calculations.throw,
        result=calculations.ThrowResult,
        flat=False,
    ),
    Verb(
        name="engraving",
        help="Blur circle that depth marks imply, and by how many stops it is more lenient than the standard.",
        parameters=(
            _focal(28),
            _stop(16, "The pair of depth marks read."),
            _distance("far", "Distance under the far mark.", "far mark", required=False),
            _distance("near", "Distance under the near mark.", "near mark", required=False),
            _distance("index", "Distance under the index.", required=False),
            _optional(
                "blur_mm", "blur", "Blur circle to compare with, mm; else the print standard of 36 × 24 mm.",
                argument="standard_mm",
            ),
        ),
        function=calculations.engraving,
        result=calculations.EngravingResult,
        flat=False,
    ),
)  # fmt: skip
