"""What the Kit pages show."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Generic, TypeVar

from welotrope.core.kit.adapter import Adapter
from welotrope.core.kit.body import Body
from welotrope.core.kit.fit import check_fit, checked_parts, verdict
from welotrope.core.kit.joint import Joint, Route, route_of
from welotrope.core.kit.known_ring import Basis
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.mount import Mount
from welotrope.core.kit.setup import Setup
from welotrope.core.kit.traits import Screen
from welotrope.core.plan.preset import Preset
from welotrope.core.rules import Finding, Severity
from welotrope.core.units.distance import Unit
from welotrope.store.book import Book
from welotrope.store.broken import Broken
from welotrope.store.queries import history, kit, mounts, presets
from welotrope.web.forms import TextForm
from welotrope.web.templating import turn_text

FormT = TypeVar("FormT", bound=TextForm)


@dataclass(frozen=True, kw_only=True)
class KitPage:
    """The Kit room: the set-up in hand first, then everything owned."""

    in_hand: kit.StoredSetup | None
    findings: list[Finding]
    checked: list[str]
    verdicts: dict[int, Severity | None]
    adapters: list[tuple[int, Adapter]]
    mounts: list[tuple[int, Mount, bool]]
    presets: list[Preset]
    setups: list[kit.StoredSetup]
    bodies: list[tuple[int, Body]]
    lenses: list[tuple[int, Lens]]
    calibrated: set[int]
    throw_text: str
    lead_mm: float
    broken: list[Broken]
    changes: list[history.Change]
    unit: Unit


@dataclass(frozen=True, kw_only=True)
class EditPage(Generic[FormT]):
    """A form page: what is edited, its errors, and where it posts to."""

    form: FormT
    action: str
    title: str
    id: int | None = None
    errors: dict[str, str] = field(default_factory=dict)
    bodies: list[tuple[int, Body]] = field(default_factory=list)
    lenses: list[tuple[int, Lens]] = field(default_factory=list)
    step: str = ""
    mounts: list[str] = field(default_factory=list)
    adapters: list[tuple[int, Adapter]] = field(default_factory=list)
    findings: list[Finding] | None = None
    checked: list[str] = field(default_factory=list)
    routes: list[Route] = field(default_factory=list)
    joint: Joint | None = None
    screens: tuple[Screen, ...] = ()
    back: str = ""
    fills: str = ""
    detour: str = ""


@dataclass(frozen=True)
class FitView:
    """The fit check of a choice: what was found, and what is known and well."""

    findings: list[Finding]
    checked: list[str]


def kit_page(book: Book, unit: Unit) -> KitPage:
    """Gather the Kit room."""
    in_hand = kit.setup_in_hand(book)
    setups = kit.list_setups(book)
    return KitPage(
        in_hand=in_hand, findings=check_fit(in_hand.setup) if in_hand else [],
        checked=checked_parts(in_hand.setup) if in_hand else [],
        verdicts={stored.id: verdict(check_fit(stored.setup)) for stored in setups},
        adapters=mounts.list_adapters(book), mounts=mounts.list_mounts(book),
        presets=presets.list_presets(book, in_hand.lens_id) if in_hand else [], setups=setups,
        bodies=kit.list_bodies(book), lenses=kit.list_lenses(book),
        calibrated={stored.lens_id for stored in setups if stored.setup.known.basis is Basis.CALIBRATED},
        throw_text=_throw_text(in_hand.setup) if in_hand else "", lead_mm=_lead_mm(in_hand.setup) if in_hand else 0.0,
        broken=kit.broken_kit(book), changes=history.latest_changes(book), unit=unit,
    )  # fmt: skip


def _throw_text(setup: Setup) -> str:
    return turn_text(setup.known.true.throw_deg, setup.known.step_deg)


def _lead_mm(setup: Setup) -> float:
    """Mean lead from infinity to the end of the travel, mm a turn."""
    far, near = setup.known.true.travel_x
    return (near - far) * 360 / setup.known.true.throw_deg


def routes_to(book: Book, stored: kit.StoredSetup) -> list[Route]:
    """Return the routes from lenses of like focal length to the set-up's body, shortest first, its own among them."""
    own = stored.setup
    adapters = [None, *(adapter for _, adapter in mounts.list_adapters(book))]
    candidates = [
        replace(own, lens=lens, adapter=adapter)
        for _, lens in kit.list_lenses(book)
        if 0.8 <= lens.focal_mm / own.lens.focal_mm <= 1.25
        for adapter in adapters
    ]
    routes = [route_of(setup) for setup in candidates if verdict(check_fit(setup)) is not Severity.STOP]
    return sorted({route_of(own), *routes}, key=lambda route: (route.length_mm is None, route.length_mm or 0))
