"""/aids/constants: what the aids are judged by, to be changed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.inputs import Reader
from welotrope.core.kit.aids.models import CONSTANTS, Constant, Eye
from welotrope.core.units.text import number
from welotrope.store.queries.practice import own_constants, save_constants
from welotrope.web.request.context import CurrentContext


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


router = APIRouter()


@router.get("/aids/constants")
def constants(context: CurrentContext) -> Response:
    """Show the constants to change."""
    return context.page("aids/constants/page.html", constant_rows(own_constants(context.uow), {}, {}))


@router.post("/aids/constants")
def change_constants(context: CurrentContext) -> Response:
    """Keep the photographer's own constants; an empty field takes the table's."""
    data = context.typed
    typed = {name: str(value)[:40] for name, value in data.items()}
    own, errors = ({}, {}) if "reset" in typed else read_constants(typed)
    if errors:
        return context.page("aids/constants/page.html", constant_rows(own, typed, errors), status=422)
    with context.undoable_transaction("Changed the constants of the aids"):
        save_constants(context.uow, own)
    return context.back_to("/aids")
