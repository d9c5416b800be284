"""What every page shares: the way in, looks, units, the set-up in hand, undo, jumping, help."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated
from urllib.parse import parse_qsl, urlencode

from fastapi import APIRouter, Form
from starlette.exceptions import HTTPException
from starlette.responses import Response

from welotrope.core.cautions import CAUTIONS
from welotrope.core.fields import ZOOM
from welotrope.core.kit.body import Body
from welotrope.core.kit.fit import check_fit, verdict
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.setup import Setup
from welotrope.core.plan.field_settings import Preset
from welotrope.core.review.frame import Outing
from welotrope.core.rules import Severity
from welotrope.core.units.distance import Unit
from welotrope.core.units.text import number
from welotrope.store.errors import NotFoundError
from welotrope.store.queries import history, kit, log
from welotrope.store.queries.pictures import get_picture
from welotrope.web.forms import key_of
from welotrope.web.request import device_pairing
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.request.limits import is_guest, local_path
from welotrope.web.request.preferences import Appearance, remember
from welotrope.web.request.room import Craft, Room
from welotrope.web.state.ring_state import RingState


@dataclass(frozen=True)
class HelpPage:
    """The help page: keys, the rooms with help pages of their own, and cautions."""

    keys: tuple[tuple[str, str], ...]
    rooms: tuple[Room, ...]
    cautions: tuple[str, ...] = CAUTIONS


def help_page(rooms: Sequence[Room]) -> HelpPage:
    """Gather the keys of every room."""
    return HelpPage(tuple(key for room in rooms for key in room.keys), tuple(room for room in rooms if room.craft))


@dataclass(frozen=True, kw_only=True)
class CraftPage:
    """The craft behind a room."""

    label: str
    path: str
    first_sight: str
    craft: tuple[Craft, ...]


def craft_page(room: Room) -> CraftPage:
    """Return the help page of a room."""
    return CraftPage(label=room.label, path=room.path, first_sight=room.first_sight, craft=room.craft)


@dataclass(frozen=True)
class JumpItem:
    """Somewhere to go."""

    kind: str
    name: str
    href: str


@dataclass(frozen=True, kw_only=True)
class JumpData:
    """What one may go to besides the rooms: settings of the lens in hand, outings, lenses and bodies."""

    in_hand: kit.StoredSetup | None
    presets: Sequence[Preset]
    outings: Sequence[Outing]
    lenses: Sequence[tuple[int, Lens]]
    bodies: Sequence[tuple[int, Body]]


def load_jump(context: RequestContext) -> JumpData:
    """Read the names of what is kept."""
    uow, stored = context.uow, context.find_selected_setup()
    return JumpData(
        in_hand=stored, presets=context.presets() if stored else (), outings=log.list_outings(uow),
        lenses=kit.list_lenses(uow), bodies=kit.list_bodies(uow),
    )  # fmt: skip


def jump_page(data: JumpData, rooms: Sequence[Room]) -> list[JumpItem]:
    """List rooms, their pages and help, presets of the lens in hand, outings, lenses and bodies."""
    items = [JumpItem("page", room.label, room.path) for room in rooms if room.label]
    stored = data.in_hand
    camera = stored.setup.body.kind if stored else None
    items += [
        JumpItem("page", part.jump, part.path)
        for room in rooms
        for part in room.sections
        if part.jump and (camera is None or part.suits(camera))
    ]
    items += [
        JumpItem("help", piece.title, f"/help/{room.key}#{number}")
        for room in rooms
        for number, piece in enumerate(room.craft, 1)
    ]
    if stored is not None:
        items += [_preset_item(preset, stored) for preset in data.presets]
    items += [JumpItem("outing", outing.name, f"/log?outing={outing.id}") for outing in data.outings[:40]]
    items += [JumpItem("lens", lens.name, f"/kit/lenses/{id}") for id, lens in data.lenses]
    items += [JumpItem("body", body.name, f"/kit/bodies/{id}") for id, body in data.bodies]
    return items


def _preset_item(preset: Preset, stored: kit.StoredSetup) -> JumpItem:
    angle = stored.setup.ring(preset.stop).setting_for(preset.distance_mm)
    state = RingState(distance_mm=preset.distance_mm, angle_deg=angle, stop=preset.stop, subjects=preset.subjects)
    return JumpItem("preset", preset.name, f"/scale?{state.query}")


@dataclass(frozen=True)
class SwitchItem:
    """A set-up to take in hand, with its fit verdict."""

    id: int
    setup: Setup
    verdict: Severity | None


def switch_page(setups: Sequence[kit.StoredSetup]) -> list[SwitchItem]:
    """List the set-ups with their verdicts."""
    return [SwitchItem(stored.id, stored.setup, verdict(check_fit(stored.setup))) for stored in setups]


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
    if is_guest(context.request) and not history.tables_of(context.uow, id) <= device_pairing.UNDOES:
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
    return context.page("everywhere/common/jump.html", jump_page(load_jump(context), context.rooms))


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
