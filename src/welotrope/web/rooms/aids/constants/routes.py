"""/aids/constants: what the aids are judged by, to be changed."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.store.queries.practice import own_constants, save_constants
from welotrope.web.request.context import CurrentContext
from welotrope.web.rooms.aids.constants.context import constant_rows
from welotrope.web.rooms.aids.constants.form import read_constants

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
