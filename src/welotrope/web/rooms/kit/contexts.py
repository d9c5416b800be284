"""What the Kit pages show."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Generic, TypeVar

from welotrope.core.kit.body import Body
from welotrope.core.kit.lens import Lens
from welotrope.core.units.distance import Unit
from welotrope.store.models import JournalRow
from welotrope.store.queries import history, kit, presets
from welotrope.store.session import Session
from welotrope.web.forms import TextForm

FormT = TypeVar("FormT", bound=TextForm)


@dataclass(frozen=True)
class KitPage:
    """The Kit room: the set-up in hand first, then everything owned."""

    in_hand: kit.StoredSetup | None
    presets: list[presets.Preset]
    setups: list[kit.StoredSetup]
    bodies: list[tuple[int, Body]]
    lenses: list[tuple[int, Lens]]
    changes: list[JournalRow]
    unit: Unit


@dataclass(frozen=True)
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


def kit_page(session: Session, unit: Unit) -> KitPage:
    """Gather the Kit room."""
    in_hand = kit.setup_in_hand(session)
    return KitPage(
        in_hand,
        presets.list_presets(session, in_hand.lens_id) if in_hand else [],
        kit.list_setups(session),
        kit.list_bodies(session),
        kit.list_lenses(session),
        history.latest_entries(session),
        unit,
    )
