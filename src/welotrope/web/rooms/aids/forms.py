"""What there is to focus on, from the URL; and the constants as typed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import TypeVar
from urllib.parse import urlencode

from welotrope.core.aids.constants import CONSTANTS, Eye
from welotrope.core.aids.situation import Detail, Light, Lines, Place, Target
from welotrope.web.forms import Reader, number

ChoiceT = TypeVar("ChoiceT", bound=StrEnum)


@dataclass(frozen=True)
class TargetForm:
    """The choices of a target: name of the field, its legend and its options."""

    target: Target

    @classmethod
    def read(cls, query: Mapping[str, str]) -> TargetForm:
        """Read the target; what is not known falls back to the usual."""
        usual = Target()
        return cls(
            Target(
                _member(Lines, query.get("lines"), usual.lines),
                _member(Detail, query.get("detail"), usual.detail),
                _member(Light, query.get("light"), usual.light),
                _member(Place, query.get("place"), usual.place),
                bool(query.get("moving")),
                bool(query.get("tripod")),
            )
        )

    @property
    def choices(self) -> tuple[tuple[str, str, list[str], str], ...]:
        """Field, label, options and the one chosen."""
        target = self.target
        return (
            ("lines", "Lines", [line.value for line in Lines], target.lines.value),
            ("detail", "Detail", [detail.value for detail in Detail], target.detail.value),
            ("light", "Light", [light.value for light in Light], target.light.value),
            ("place", "Sits in the", [place.value for place in Place], target.place.value),
        )

    @property
    def query(self) -> str:
        """The choices as part of a URL, the usual ones left out."""
        usual = dict((name, chosen) for name, _, _, chosen in TargetForm(Target()).choices)
        pairs = [(name, chosen) for name, _, _, chosen in self.choices if chosen != usual[name]]
        flags = [(name, "yes") for name in ("moving", "tripod") if getattr(self.target, name)]
        return urlencode([*pairs, *flags])


def read_constants(data: Mapping[str, str]) -> tuple[dict[str, float], dict[str, str]]:
    """Return the constants that differ from the table's, and an error sentence per field."""
    reader = Reader()
    own: dict[str, float] = {}
    for constant in CONSTANTS:
        text = str(data.get(constant.id, "")).strip()
        if not text:
            continue

        def read(
            text: str = text, name: str = constant.text, id: str = constant.id, unit: str = constant.unit
        ) -> float:
            value = number(text, name, unit)
            Eye.of({id: value})
            return value

        value = reader.take(constant.id, read, constant.value)
        if abs(value - constant.value) > 1e-12:
            own[constant.id] = value
    return own, reader.errors


def _member(kind: type[ChoiceT], text: str | None, usual: ChoiceT) -> ChoiceT:
    return kind(text) if text in set(kind) else usual
