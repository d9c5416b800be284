"""What every page shares: the way in, looks, units, the set-up in hand, undo, jumping, help."""

from __future__ import annotations

from typing import Annotated
from urllib.parse import parse_qsl, urlencode

from fastapi import APIRouter, Form
from starlette.exceptions import HTTPException
from starlette.responses import Response

from welotrope.core.fields import ZOOM
from welotrope.core.units.distance import Unit
from welotrope.core.units.text import number
from welotrope.store.errors import NotFoundError
from welotrope.store.queries import history, kit
from welotrope.store.queries.pictures import get_picture
from welotrope.web.forms.text_form import key_of
from welotrope.web.request import guests
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.request.limits import local_path
from welotrope.web.request.origin import is_guest
from welotrope.web.request.preferences import Appearance, remember
from welotrope.web.rooms.everywhere.common.context import craft_page, help_page, jump_page, switch_page

router = APIRouter()
# What an address names that may have gone with the change; the rest of it says what a page shows.
_MAY_BE_GONE = frozenset({"done", "picture", "outing", "batch", "frame", "id"})


@router.get("/")
def home(context: CurrentContext) -> Response:
    """Open the ring of the set-up in hand, or the way in."""
    return context.go("/scale" if context.find_selected_setup() else "/start")


@router.post("/look")
def choose_look(
    context: CurrentContext, look: Annotated[Appearance, Form()], *, back: Annotated[str, Form()] = "/"
) -> Response:
    """Remember a look on this device."""
    response = context.go(local_path(back))
    remember(response, "look", look.value)
    return response


@router.post("/unit")
def choose_unit(
    context: CurrentContext, unit: Annotated[Unit, Form()], *, back: Annotated[str, Form()] = "/"
) -> Response:
    """Remember the leading unit on this device."""
    response = context.go(local_path(back))
    remember(response, "unit", unit.value)
    return response


@router.post("/in-hand")
def select_setup(
    context: CurrentContext, setup: Annotated[int, Form()], *, back: Annotated[str, Form()] = "/"
) -> Response:
    """Take another set-up in hand and stay in the room."""
    with context.transaction():
        context.select_setup(setup)
    return context.go(local_path(back))


@router.post("/zoom")
def zoom(context: CurrentContext, zoom: Annotated[str, Form()], *, back: Annotated[str, Form()] = "/") -> Response:
    """Zoom the lens in hand and stay in the room."""
    with context.transaction():
        context.zoom_to(number(zoom, ZOOM, unit="mm"))
    return context.go(local_path(back))


@router.post("/undo/{id}")
def undo(context: CurrentContext, id: int, *, back: Annotated[str, Form()] = "/kit") -> Response:
    """Take a change back; from a paired device only one of what it may log and practise."""
    if is_guest(context.request) and not history.tables_of(context.uow, id) <= guests.UNDOES:
        raise HTTPException(403, "This change is taken back at the computer itself.")
    context.undo(id)
    path, _, query = local_path(back).partition("?")
    kept = urlencode([pair for pair in parse_qsl(query) if pair[0] not in _MAY_BE_GONE or _is_there(context, *pair)])
    return context.back_to(f"{path}?{kept}" if kept else path)


def _is_there(context: RequestContext, name: str, value: str) -> bool:
    """Whether an address names a picture that is still there; of other things it is not asked."""
    key = key_of(value) if name == "picture" else None
    try:
        return key is not None and bool(get_picture(context.uow, key))
    except NotFoundError:
        return False


@router.get("/jump")
def jump(context: CurrentContext) -> Response:
    """List everything there is to jump to."""
    return context.page("everywhere/common/jump.html", jump_page(context))


@router.get("/setups")
def setups(context: CurrentContext) -> Response:
    """List the set-ups to switch to."""
    return context.page("everywhere/common/switch.html", switch_page(kit.list_setups(context.uow)))


@router.post("/seen")
def dismiss(
    context: CurrentContext, *, room: Annotated[str, Form()] = "", back: Annotated[str, Form()] = "/"
) -> Response:
    """Explain a room's instruments no more on this device."""
    response = context.go(local_path(back))
    known = {open.key for open in context.rooms}
    remember(response, "seen", "-".join(sorted((context.preferences.seen | {room}) & known)))
    return response


@router.get("/help/{key}")
def room_help(context: CurrentContext, key: str) -> Response:
    """Show the craft behind a room."""
    room = next((open for open in context.rooms if open.key == key and open.craft), None)
    if room is None:
        raise HTTPException(404, "There is no help page of that name")
    return context.page("everywhere/common/craft.html", craft_page(room))


@router.get("/help")
def show_help(context: CurrentContext) -> Response:
    """Show the keys, how to read the instruments, and the cautions."""
    return context.page("everywhere/common/help.html", help_page(context.rooms))
