"""What the shared pages show."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from welotrope.core.cautions import CAUTIONS
from welotrope.core.kit.fit import check_fit, verdict
from welotrope.core.kit.setup import Setup
from welotrope.core.plan.field_settings import Preset
from welotrope.core.rules import Severity
from welotrope.store.queries import kit, log
from welotrope.web.request.context import RequestContext
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


def jump_page(context: RequestContext) -> list[JumpItem]:
    """List rooms, their pages and help, presets of the lens in hand, outings, lenses and bodies."""
    uow, rooms = context.uow, context.rooms
    items = [JumpItem("room", room.label, room.path) for room in rooms if room.label]
    stored = context.find_selected_setup()
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
        items += [_preset_item(preset, stored) for preset in context.presets()]
    items += [JumpItem("outing", outing.name, f"/log?outing={outing.id}") for outing in log.list_outings(uow)[:40]]
    items += [JumpItem("lens", lens.name, f"/kit/lenses/{id}") for id, lens in kit.list_lenses(uow)]
    items += [JumpItem("body", body.name, f"/kit/bodies/{id}") for id, body in kit.list_bodies(uow)]
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
