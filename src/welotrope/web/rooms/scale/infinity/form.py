"""Sightings of infinity as typed."""

from __future__ import annotations

from welotrope.core.errors import UnreadableError
from welotrope.core.ring.true_infinity import InfinityRecord, Sighting, Warmth
from welotrope.core.units.distance import Unit, parse_distance
from welotrope.web.forms.text_form import TextForm
from welotrope.web.rooms.scale.rows import built, every, padded, read_rows, ring_angle, written


class InfinityForm(TextForm):
    """Sightings as typed."""

    intent: str = ""
    angle: list[str] = []
    warmth: list[str] = []
    farthest: str = ""

    @classmethod
    def of(cls, record: InfinityRecord) -> InfinityForm:
        """Fill the form from a record."""
        return cls(
            angle=[f"{sighting.angle_deg:g}" for sighting in record.sightings],
            warmth=[sighting.warmth.value for sighting in record.sightings],
            farthest=written(record.farthest_mm),
        )

    @property
    def rows(self) -> list[tuple[str, ...]]:
        """Sightings with blank rows after them."""
        typed = [row for row in every(self.angle, self.warmth) if row[0]]
        return padded(typed, 2)[: max(5, len(typed) + 2)]

    def record(self, unit: Unit, mm_per_degree: float | None) -> tuple[InfinityRecord | None, list[str]]:
        """Return the record, or None with the sentences of what is wrong."""

        def sighting(row: tuple[str, ...]) -> Sighting:
            return Sighting(
                ring_angle(row[0], mm_per_degree), Warmth(row[1]) if row[1] in set(Warmth) else Warmth.UNNOTED
            )

        typed = [row for row in every(self.angle, self.warmth) if row[0]]
        sightings, problems = read_rows(typed, "Sighting", sighting)

        def build() -> InfinityRecord:
            farthest = parse_distance(self.farthest, field="farthest sharp", bare=unit) if self.farthest else None
            if not sightings and farthest is None:
                raise UnreadableError("sightings", "", "there is none", "Write where the ring stood, such as 2.5")
            return InfinityRecord(tuple(sightings), farthest)

        return built(build, problems)
