"""The form that measures a ring: how it is read, and the readings."""

from __future__ import annotations

import re
from dataclasses import replace

from welotrope.core.errors import OutOfRangeError, WelotropeError
from welotrope.core.inputs import FormInput, Input, Reader, Text, attributes_of, inputs_of, shown_at, take_all, texts_of
from welotrope.core.ring.survey import MAX_POINTS, READ_BY, Point, ReadingUnit, Survey, SurveyKind, asked_by
from welotrope.web.forms.record_form import RecordForm, asks_for
from welotrope.web.rooms.scale.rows import Row, RowsForm, columns_of, padded, read_rows

_PAIR = re.compile(r"^\s*([^:;\t]+?)\s*[:;\t]\s*(.+?)\s*$")
_EXTRA_ROWS = 4


@asks_for(Survey)
class MeasureForm(RecordForm, RowsForm):
    """Fields as typed; ``position``, ``distance`` and ``use`` are columns of the table."""

    # Of the survey, as typed.
    way: str = ""
    kind: str = ""
    diameter: str = ""
    paste: str = ""
    intent: str = ""
    position: list[str] = []
    distance: list[str] = []
    use: list[str] = []

    @classmethod
    def of_survey(cls, survey: Survey) -> MeasureForm:
        """Fill the form from a survey."""
        texts: dict[str, Text | list[Text]] = {**texts_of(survey), **columns_of(Point, survey.points)}
        return cls.model_validate(texts)

    @property
    def read_by(self) -> ReadingUnit:
        """How the ring is read."""
        found: ReadingUnit = READ_BY.read(self.way, self._as_typed)
        return found

    @property
    def asked(self) -> dict[str, Input]:
        """What is asked for besides the readings, by name, as it is asked for when the ring is read this way."""
        return {one.name: asked_by(one, self.read_by) for one in inputs_of(Survey)}

    @property
    def columns(self) -> tuple[Input, ...]:
        """What is asked for in a row."""
        return tuple(asked_by(one, self.read_by) for one in inputs_of(Point))

    @property
    def rows(self) -> list[Row]:
        """The table's rows, blank ones after them."""
        return padded(self._rows(), self.columns, more=_EXTRA_ROWS if self.intent == "rows" else 0)

    def survey(self, typed: FormInput) -> tuple[Survey | None, dict[str, str], list[str]]:
        """Return the survey, or None with an error per field and a sentence per row."""
        reader = Reader()
        values = take_all(Survey, reader, replace(typed, texts=self.model_dump()))
        if len(self._rows()) > MAX_POINTS:
            return None, reader.errors, [_too_many(len(self._rows()))]
        points, problems = read_rows(Point, self._rows(), "Reading", typed)
        if reader.errors or problems:
            return None, reader.errors, problems
        if values["way"] is ReadingUnit.STEPS:
            values["kind"] = SurveyKind.MEASURED
        try:
            return Survey(points=tuple(points), **values), {}, []
        except WelotropeError as error:
            known = {key for _, one in attributes_of(Survey) for key in (one.field.key, *one.also)}
            if error.key in known:
                return None, {shown_at(Survey, error): error.sentence}, []
            return None, {}, [error.sentence]

    @property
    def _as_typed(self) -> FormInput:
        return FormInput(texts=self.model_dump())

    def _rows(self) -> list[Row]:
        pasted = [_split(line) for line in self.paste.splitlines() if line.strip()]
        return [*self.rows_of(Point), *pasted]


def _too_many(count: int) -> str:
    return OutOfRangeError(
        "readings", f"{count} readings", "that is more than a ring needs", f"Give at most {MAX_POINTS}"
    ).sentence


def _split(line: str) -> Row:
    match = _PAIR.match(line)
    return (match[1], match[2], "") if match else (line.strip(), "", "")
