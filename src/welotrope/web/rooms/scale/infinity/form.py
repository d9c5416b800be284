"""Sightings of infinity as typed."""

from __future__ import annotations

from dataclasses import replace

from welotrope.core.errors import UnreadableError
from welotrope.core.inputs import FormInput, Input, inputs_of
from welotrope.core.ring.true_infinity import FARTHEST, InfinityRecord, Sighting
from welotrope.web.rooms.scale.rows import Row, RowsForm, built, columns_of, padded, read_rows

_LEAST_ROWS = 5


class InfinityForm(RowsForm):
    """Sightings as typed."""

    intent: str = ""
    angle: list[str] = []
    warmth: list[str] = []
    farthest: str = ""

    @classmethod
    def of(cls, record: InfinityRecord) -> InfinityForm:
        """Fill the form from a record."""
        texts = {FARTHEST.name: FARTHEST.write(record.farthest_mm)}
        return cls.model_validate(columns_of(Sighting, record.sightings) | texts)

    @property
    def columns(self) -> tuple[Input, ...]:
        """What is asked for in a row."""
        return inputs_of(Sighting)

    @property
    def asks_farthest(self) -> Input:
        """What is asked for where infinity is out of reach."""
        return FARTHEST

    @property
    def rows(self) -> list[Row]:
        """Sightings with blank rows after them."""
        return padded(self.rows_of(Sighting), self.columns, least=_LEAST_ROWS)

    def record(self, typed: FormInput) -> tuple[InfinityRecord | None, list[str]]:
        """Return the record, or None with the sentences of what is wrong."""
        sightings, problems = read_rows(Sighting, self.rows_of(Sighting), "Sighting", typed)

        def build() -> InfinityRecord:
            farthest = FARTHEST.value(replace(typed, texts={FARTHEST.name: self.farthest}))
            if not sightings and farthest is None:
                raise UnreadableError("sightings", "", "there is none", "Write where the ring stood, such as 2.5")
            return InfinityRecord(tuple(sightings), farthest)

        return built(build, problems)
