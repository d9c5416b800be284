"""The constants of the aids as typed."""

from __future__ import annotations

from collections.abc import Mapping

from welotrope.core.inputs import Reader
from welotrope.core.kit.aids.constants import CONSTANTS, Eye
from welotrope.core.units.numbers import number


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
            value = number(text, name, unit=unit)
            Eye.of({id: value})
            return value

        value = reader.take(constant.id, read, constant.value)
        if abs(value - constant.value) > 1e-12:
            own[constant.id] = value
    return own, reader.errors
