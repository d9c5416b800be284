"""What the page of constants shows."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.kit.aids.constants import CONSTANTS, Constant


@dataclass(frozen=True)
class ConstantRow:
    """A constant with the text of its field and whether it is the photographer's own."""

    constant: Constant
    text: str
    own: bool
    error: str


def constant_rows(own: dict[str, float], typed: dict[str, str], errors: dict[str, str]) -> tuple[ConstantRow, ...]:
    """Return the table of constants as a form."""
    return tuple(
        ConstantRow(
            constant,
            typed.get(constant.id, f"{own.get(constant.id, constant.value):g}"),
            constant.id in own,
            errors.get(constant.id, ""),
        )
        for constant in CONSTANTS
    )
