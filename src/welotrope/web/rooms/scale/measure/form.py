"""The form that measures a ring: how it is read, and the readings."""

from __future__ import annotations

import re
from enum import StrEnum
from typing import TypeVar

from welotrope.core.errors import OutOfRangeError, UnreadableError, WelotropeError
from welotrope.core.inputs import Reader
from welotrope.core.ring.survey import MAX_POINTS, MeasuredFrom, Point, ReadingUnit, ReadingUse, Survey, SurveyKind
from welotrope.core.units.distance import Unit, parse_distance, write_distance
from welotrope.core.units.numbers import number
from welotrope.web.forms.text_form import TextForm
from welotrope.web.rooms.scale.rows import filled, padded, read_rows, required

ChoiceT = TypeVar("ChoiceT", bound=StrEnum)
_PAIR = re.compile(r"^\s*([^:;\t]+?)\s*[:;\t]\s*(.+?)\s*$")


class MeasureForm(TextForm):
    """Fields as typed; ``position``, ``distance`` and ``use`` are columns of the table."""

    way: str = ReadingUnit.DEGREES.value
    kind: str = SurveyKind.ENGRAVED.value
    start: str = MeasuredFrom.FILM.value
    diameter: str = ""
    front: str = ""
    error: str = ""
    distance_error: str = ""
    end: str = ""
    paste: str = ""
    intent: str = ""
    position: list[str] = []
    distance: list[str] = []
    use: list[str] = []

    @classmethod
    def of(cls, survey: Survey) -> MeasureForm:
        """Fill the form from a survey."""
        return cls(
            way=survey.way.value, kind=survey.kind.value, start=survey.start.value,
            diameter=_text(survey.diameter_mm), front=_text(survey.front_mm), error=_text(survey.error),
            distance_error=_text(None if survey.distance_error is None else survey.distance_error * 100),
            end=_text(survey.end), position=[f"{point.position:g}" for point in survey.points],
            distance=[write_distance(point.distance_mm) for point in survey.points],
            use=[point.use.value for point in survey.points],
        )  # fmt: skip

    @property
    def rows(self) -> list[tuple[str, ...]]:
        """The table's rows, blank ones after them."""
        return padded(self._typed(), 3, 4 if self.intent == "rows" else 0)

    def survey(self, unit: Unit) -> tuple[Survey | None, dict[str, str], list[str]]:
        """Return the survey, or None with an error per field and a sentence per row; a bare distance is in ``unit``."""
        reader = Reader()
        values = {
            name: reader.optional(name, text, lambda text, name=name: number(text, _NAMES[name]))  # type: ignore[misc]
            for name, text in (
                ("diameter", self.diameter), ("front", self.front), ("error", self.error), ("end", self.end),
                ("distance_error", self.distance_error),
            )
        }  # fmt: skip
        if len(self._typed()) > MAX_POINTS:
            return None, reader.errors, [_too_many(len(self._typed()))]
        points, problems = read_rows(self._typed(), "Reading", lambda row: _point(row, unit))
        if reader.errors or problems:
            return None, reader.errors, problems
        way, kind = _choice(ReadingUnit, self.way), _choice(SurveyKind, self.kind)
        if way is ReadingUnit.STEPS:
            kind = SurveyKind.MEASURED
        try:
            return (
                Survey(
                    points=tuple(points),
                    way=way,
                    kind=kind,
                    start=_choice(MeasuredFrom, self.start),
                    diameter_mm=values["diameter"],
                    front_mm=values["front"],
                    error=values["error"],
                    end=values["end"],
                    distance_error=None if values["distance_error"] is None else values["distance_error"] / 100,
                ),
                {},
                [],
            )
        except WelotropeError as error:
            field = _FIELDS.get(error.key)
            return (None, {field: error.sentence}, []) if field else (None, {}, [error.sentence])

    def _typed(self) -> list[tuple[str, ...]]:
        pasted = [_split(line) for line in self.paste.splitlines() if line.strip()]
        return [*filled(self.position, self.distance, self.use), *pasted]


_NAMES = {
    "diameter": "diameter under the tape", "front": "film mark to front", "error": "reading error",
    "end": "end of travel", "distance_error": "error of a distance",
}  # fmt: skip
_FIELDS = {
    "tape_diameter": "diameter", "ring_diameter": "diameter", "front": "front", "reading_error": "error", "end": "end",
    "distance_error": "distance_error",
}  # fmt: skip


def _point(row: tuple[str, ...], unit: Unit) -> Point:
    position = required(row[0], "ring position", "Write where the ring stood, such as 48.6")
    distance = required(row[1], "distance", "Write the distance, such as 2 m or ∞")
    return Point(
        number(position, "ring position"),
        parse_distance(distance, bare=unit),
        _choice(ReadingUse, row[2] or ReadingUse.AUTO.value),
    )


def _too_many(count: int) -> str:
    return OutOfRangeError(
        "readings", f"{count} readings", "that is more than a ring needs", f"Give at most {MAX_POINTS}"
    ).sentence


def _split(line: str) -> tuple[str, ...]:
    match = _PAIR.match(line)
    return (match[1], match[2], "") if match else (line.strip(), "", "")


def _choice(kind: type[ChoiceT], text: str) -> ChoiceT:
    try:
        return kind(text)
    except ValueError:
        raise UnreadableError(kind.__name__.lower(), text, "that is none of the choices", "Choose one") from None


def _text(value: float | None) -> str:
    return "" if value is None else f"{value:g}"
