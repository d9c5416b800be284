"""What every page shares: the way in, looks, units, the set-up in hand, undo, jumping, help."""

from __future__ import annotations

from typing import Annotated
from urllib.parse import parse_qsl, urlencode

from fastapi import APIRouter, Form
from starlette.exceptions import HTTPException
from starlette.responses import Response

from welotrope.core.fields import ZOOM
from welotrope.core.units.distance import Unit
from welotrope.core.units.numbers import number
from welotrope.store.errors import NotFoundError
from welotrope.store.queries import history
from welotrope.store.queries.pictures import get_picture
from welotrope.web.forms.text_form import key_of
from welotrope.web.rooms.everywhere.common.context import craft_page, help_page, jump_page, switch_page
from welotrope.web.shell import guests
from welotrope.web.shell.desk import AtDesk, Desk
from welotrope.web.shell.limits import local_path
from welotrope.web.shell.preferences import Appearance, remember
from welotrope.web.shell.security import is_guest

router = APIRouter()
# What an address names that may have gone with the change; the rest of it says what a page shows.
_MAY_BE_GONE = frozenset({"done", "picture", "outing", "batch", "frame", "id"})


@router.get("/")
def home(desk: AtDesk) -> Response:
    """Open the ring of the set-up in hand, or the way in."""
    return desk.go("/scale" if desk.held() else "/start")


@router.post("/look")
def choose_look(desk: AtDesk, look: Annotated[Appearance, Form()], back: Annotated[str, Form()] = "/") -> Response:
    """Remember a look on this device."""
    response = desk.go(local_path(back))
    remember(response, "look", look.value)
    return response


@router.post("/unit")
def choose_unit(desk: AtDesk, unit: Annotated[Unit, Form()], back: Annotated[str, Form()] = "/") -> Response:
    """Remember the leading unit on this device."""
    response = desk.go(local_path(back))
    remember(response, "unit", unit.value)
    return response


@router.post("/in-hand")
def take_in_hand(desk: AtDesk, setup: Annotated[int, Form()], back: Annotated[str, Form()] = "/") -> Response:
    """Take another set-up in hand and stay in the room."""
    with desk.remember():
        desk.take_in_hand(setup)
    return desk.go(local_path(back))


@router.post("/zoom")
def zoom(desk: AtDesk, zoom: Annotated[str, Form()], back: Annotated[str, Form()] = "/") -> Response:
    """Zoom the lens in hand and stay in the room."""
    with desk.remember():
        desk.zoom_to(number(zoom, ZOOM, "mm"))
    return desk.go(local_path(back))


@router.post("/undo/{id}")
def undo(desk: AtDesk, id: int, back: Annotated[str, Form()] = "/kit") -> Response:
    """Take a change back; from a paired device only one of what it may log and practise."""
    if is_guest(desk.request) and not history.tables_of(desk.book, id) <= guests.UNDOES:
        raise HTTPException(403, "This change is taken back at the computer itself.")
    desk.take_back(id)
    path, _, query = local_path(back).partition("?")
    kept = urlencode([pair for pair in parse_qsl(query) if pair[0] not in _MAY_BE_GONE or _is_there(desk, *pair)])
    return desk.back_to(f"{path}?{kept}" if kept else path)


def _is_there(desk: Desk, name: str, value: str) -> bool:
    """Whether an address names a picture that is still there; of other things it is not asked."""
    key = key_of(value) if name == "picture" else None
    try:
        return key is not None and bool(get_picture(desk.book, key))
    except NotFoundError:
        return False


@router.get("/jump")
def jump(desk: AtDesk) -> Response:
    """List everything there is to jump to."""
    return desk.page("everywhere/common/jump.html", jump_page(desk))


@router.get("/setups")
def setups(desk: AtDesk) -> Response:
    """List the set-ups to switch to."""
    return desk.page("everywhere/common/switch.html", switch_page(desk.book))


@router.post("/seen")
def dismiss(desk: AtDesk, room: Annotated[str, Form()] = "", back: Annotated[str, Form()] = "/") -> Response:
    """Explain a room's instruments no more on this device."""
    response = desk.go(local_path(back))
    known = {open.key for open in desk.rooms}
    remember(response, "seen", "-".join(sorted((desk.preferences.seen | {room}) & known)))
    return response


@router.get("/help/{key}")
def room_help(desk: AtDesk, key: str) -> Response:
    """Show the craft behind a room."""
    room = next((open for open in desk.rooms if open.key == key and open.craft), None)
    if room is None:
        raise HTTPException(404, "There is no help page of that name")
    return desk.page("everywhere/common/craft.html", craft_page(room))


@router.get("/help")
def show_help(desk: AtDesk) -> Response:
    """Show the keys, how to read the instruments, and the cautions."""
    return desk.page("everywhere/common/help.html", help_page(desk.rooms))
