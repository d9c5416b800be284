"""What the shared pages show."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.kit.fit import Severity, check_fit, verdict
from welotrope.core.kit.setup import Setup
from welotrope.store.queries import kit, log, presets
from welotrope.store.session import Session
from welotrope.web.desk import ROOMS
from welotrope.web.ring_state import RingState

KEYS = (
    ("k", "switch set-up"),
    ("u", "swap metres and feet"),
    ("← →", "turn the ring finely; with Shift coarsely"),
    ("[ ]", "stop down, open up"),
    ("0", "ring to infinity"),
    ("1 … 9", "to a preset of the lens, in Scale"),
    ("l", "log a frame from here"),
    ("/", "jump to anything"),
    ("t", "next look: Bench, Room, Sun, Night"),
    ("space", "in the finder: release"),
    ("m r d", "in the finder: magnify or look closer, turn the camera, mask"),
    ("?", "this page"),
)
PAGES = (
    ("Measure the throw", "/scale/measure"),
    ("Depth marks", "/scale/marks"),
    ("Infinity", "/scale/infinity"),
    ("Focus shift", "/scale/shift"),
    ("Print a strip, a collar or a card", "/scale/print"),
    ("Constants of the aids", "/aids/constants"),
    ("Keys and help", "/help"),
)
CAUTIONS = (
    "Never point a finder, a magnifier or a long lens at the sun: it burns the eye and the shutter.",
    "Walking with the camera up or shooting from the hip: watch traffic and your footing.",
    "Photographing strangers: follow local law and ordinary courtesy, and stop when asked.",
    "Never force a mount. When a fit is not known to be safe, ask the maker's data or a repairer.",
    "Opening a lens, shimming it or adjusting a rangefinder is a technician's job unless you know how.",
    "At night: know the place, carry a light, do not go alone.",
)


@dataclass(frozen=True)
class HelpPage:
    """The help page: keys and cautions."""

    keys: tuple[tuple[str, str], ...] = KEYS
    cautions: tuple[str, ...] = CAUTIONS


@dataclass(frozen=True)
class JumpItem:
    """Somewhere to go."""

    kind: str
    name: str
    href: str


def jump_page(session: Session) -> list[JumpItem]:
    """List rooms, presets of the lens in hand, outings, lenses and bodies."""
    items = [JumpItem("room", label, f"/{key}") for key, label in ROOMS]
    items += [JumpItem("page", name, path) for name, path in PAGES]
    stored = kit.setup_in_hand(session)
    if stored is not None:
        items += [_preset_item(preset, stored) for preset in presets.list_presets(session, stored.lens_id)]
    items += [JumpItem("outing", outing.name, f"/log?outing={outing.id}") for outing in log.list_outings(session)[:40]]
    items += [JumpItem("lens", lens.name, f"/kit/lenses/{id}") for id, lens in kit.list_lenses(session)]
    items += [JumpItem("body", body.name, f"/kit/bodies/{id}") for id, body in kit.list_bodies(session)]
    return items


def _preset_item(preset: presets.Preset, stored: kit.StoredSetup) -> JumpItem:
    angle = stored.setup.ring(preset.stop).setting_for(preset.distance_mm)
    state = RingState(preset.distance_mm, angle, preset.stop, preset.subjects)
    return JumpItem("preset", preset.name, f"/scale?{state.query}")


@dataclass(frozen=True)
class SwitchItem:
    """A set-up to take in hand, with its fit verdict."""

    id: int
    setup: Setup
    verdict: Severity | None


def switch_page(session: Session) -> list[SwitchItem]:
    """List the set-ups with their verdicts."""
    return [
        SwitchItem(stored.id, stored.setup, verdict(check_fit(stored.setup))) for stored in kit.list_setups(session)
    ]
