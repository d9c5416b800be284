"""GET /aids: which aid resolves the focus wanted; and the constants it rests on."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.store.queries.practice import own_constants, save_constants
from welotrope.web.desk import AtDesk
from welotrope.web.rooms.aids.constants_form import read_constants
from welotrope.web.rooms.aids.contexts import aids_page, constant_rows

router = APIRouter()


@router.get("/aids")
def aids(desk: AtDesk) -> Response:
    """Judge every aid of the body for the ring's setting and the subject."""
    stored = desk.in_hand()
    state = desk.ring_state()
    page = aids_page(stored, state, desk.presets(), desk.personal(), desk.preferences.unit)
    return desk.page("aids.html", page, room="aids", query=state.query)


@router.get("/aids/constants")
def constants(desk: AtDesk) -> Response:
    """Show the constants to change."""
    return desk.page("constants.html", constant_rows(own_constants(desk.session), {}, {}), room="aids")


@router.post("/aids/constants")
def change_constants(desk: AtDesk) -> Response:
    """Keep the photographer's own constants; an empty field takes the table's."""
    data = desk.typed
    typed = {name: str(value)[:40] for name, value in data.items()}
    own, errors = ({}, {}) if "reset" in typed else read_constants(typed)
    if errors:
        return desk.page("constants.html", constant_rows(own, typed, errors), room="aids", status=422)
    with desk.change("Changed the constants of the aids"):
        save_constants(desk.session, own)
    return desk.back_to("/aids")
