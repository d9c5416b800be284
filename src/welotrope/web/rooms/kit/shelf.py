"""The Kit room: what is in hand, and everything owned."""

from __future__ import annotations

from dataclasses import dataclass

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.kit.adapter import Adapter
from welotrope.core.kit.attachment import Attachment
from welotrope.core.kit.body import Body
from welotrope.core.kit.camera_kind import ScaleShown
from welotrope.core.kit.fit import check_fit, checked_parts, verdict
from welotrope.core.kit.joint import route_of
from welotrope.core.kit.known_ring import Basis
from welotrope.core.kit.lens import Lens, RingSource
from welotrope.core.kit.mount import Mount
from welotrope.core.kit.setup import Setup
from welotrope.core.plan.field_settings import Preset
from welotrope.core.rules import RuleFinding, Severity
from welotrope.core.units.distance import Unit
from welotrope.core.units.turn import turn_text
from welotrope.store.errors import Broken
from welotrope.store.queries import history, kit, mounts
from welotrope.web.request.context import CurrentContext, RequestContext


@dataclass(frozen=True)
class TravelFact:
    """How far the ring, bar or bed of the set-up in hand goes, and on what ground that is said."""

    name: str
    text: str
    note: str


@dataclass(frozen=True, kw_only=True)
class KitPage:
    """The Kit room: the set-up in hand first, then everything owned."""

    in_hand: kit.StoredSetup | None
    findings: tuple[RuleFinding, ...]
    checked: list[str]
    verdicts: dict[int, Severity | None]
    adapters: list[tuple[int, Adapter]]
    attachments: list[tuple[int, Attachment]]
    mounts: list[tuple[int, Mount, bool]]
    presets: list[Preset]
    setups: list[kit.StoredSetup]
    bodies: list[tuple[int, Body]]
    lenses: list[tuple[int, Lens]]
    travels: dict[int, str]
    travel: TravelFact | None
    rig_mm: float | None
    broken: list[Broken]
    changes: list[history.UndoableChange]
    unit: Unit

    @property
    def has_mounts(self) -> bool:
        """Whether a camera takes lenses, or an adapter is there for one; with none yet, whether one might."""
        return not self.bodies or bool(self.adapters) or any(body.kind.has_mount for _, body in self.bodies)


@dataclass(frozen=True, kw_only=True)
class KitData:
    """Everything owned, each with its key; the set-up in hand with its presets, and what was changed lately."""

    in_hand: kit.StoredSetup | None
    presets: list[Preset]
    setups: list[kit.StoredSetup]
    bodies: list[tuple[int, Body]]
    lenses: list[tuple[int, Lens]]
    mounts: list[tuple[int, Mount, bool]]
    adapters: list[tuple[int, Adapter]]
    attachments: list[tuple[int, Attachment]]
    broken: list[Broken]
    changes: list[history.UndoableChange]


def load_kit(context: RequestContext) -> KitData:
    """Read all that is owned."""
    uow, in_hand = context.uow, context.find_selected_setup()
    return KitData(
        in_hand=in_hand, presets=context.presets() if in_hand else [], setups=kit.list_setups(uow),
        bodies=kit.list_bodies(uow), lenses=kit.list_lenses(uow), mounts=mounts.list_mounts(uow),
        adapters=mounts.list_adapters(uow), attachments=mounts.list_attachments(uow),
        broken=kit.broken_kit(uow), changes=history.latest_changes(uow),
    )  # fmt: skip


def kit_page(data: KitData, *, unit: Unit) -> KitPage:
    """Check every set-up, and say what is known of the one in hand."""
    in_hand = data.in_hand
    return KitPage(
        in_hand=in_hand, findings=check_fit(in_hand.setup) if in_hand else (),
        checked=checked_parts(in_hand.setup) if in_hand else [],
        verdicts={stored.id: verdict(check_fit(stored.setup)) for stored in data.setups},
        adapters=data.adapters, attachments=data.attachments, mounts=data.mounts, presets=data.presets,
        setups=data.setups, bodies=data.bodies, lenses=data.lenses,
        travels={
            id: _travel(lens, [one.setup for one in data.setups if one.lens_id == id]) for id, lens in data.lenses
        },
        travel=_travel_fact(in_hand.setup) if in_hand else None,
        rig_mm=route_of(in_hand.setup).length_mm if in_hand else None,
        broken=data.broken, changes=data.changes, unit=unit,
    )  # fmt: skip


def _travel(lens: Lens, setups: list[Setup]) -> str:
    """Say how far the ring of a lens turns and on what ground; nothing where every camera it is on has no ring."""
    if any(setup.known.basis is Basis.CALIBRATED for setup in setups):
        return "calibrated"
    if setups and not any(setup.body.kind.turns for setup in setups):
        return ""
    source = lens.ring_source
    guessed = source in (RingSource.ASSUMED, RingSource.EYE)
    return f"{lens.helicoid().throw_deg:.0f}°{f' {source.value}' if guessed else ''}"


def _travel_fact(setup: Setup) -> TravelFact:
    known = setup.known
    basis, side = known.basis.value, f"∞ lies {setup.lens.infinity_side.value}"
    name = f"{'Throw' if setup.body.kind.turns else 'Travel'} of the {setup.noun}"
    if setup.body.kind.scale is ScaleShown.BAR and known.step_deg is None:
        return TravelFact(name, basis, side)  # a bar of unknown steps has no length to tell
    travel = turn_text(known.true.throw_deg, setup.turn_in)
    if not setup.body.kind.turns:
        return TravelFact(name, travel, f"{basis}; {side}")
    return TravelFact(name, travel, f"{basis}; {_lead_mm(setup):.2f}\u00a0mm of extension a turn; {side}")


def _lead_mm(setup: Setup) -> float:
    """Mean lead from infinity to the end of the travel, mm a turn."""
    far, near = setup.known.true.travel_x
    return (near - far) * 360 / setup.known.true.throw_deg


router = APIRouter()


@router.get("/kit")
def show_kit(context: CurrentContext) -> Response:
    """Open on the set-up in hand; an empty kit leads to the start page."""
    unit = context.preferences.unit
    page = context.cached(("kit page", context.selection.key, unit), lambda: kit_page(load_kit(context), unit=unit))
    if not (page.bodies or page.lenses or page.changes):
        return context.go("/start")
    return context.page("kit/shelf/page.html", page)


@router.post("/kit/broken/{table}/{id}/delete")
def delete_broken(context: CurrentContext, table: str, id: int) -> Response:
    """Delete a record that cannot be read, undoably."""
    with context.undoable_transaction("Deleted a record that could not be read"):
        kit.delete_broken(context.uow, table, id)
    return context.back_to("/kit")
