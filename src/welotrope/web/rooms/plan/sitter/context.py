"""What the page of a sitter shows."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.errors import WelotropeError
from welotrope.core.kit.aids.constants import Eye
from welotrope.core.plan.sitter import SitterPlan, plan_sitter
from welotrope.core.units.distance import Unit
from welotrope.store.queries.kit import StoredSetup
from welotrope.web.components.ring.view import RingView, ring_view
from welotrope.web.components.setting.view import Put, put
from welotrope.web.forms.record_form import RecordForm
from welotrope.web.rooms.plan.sitter.form import SitterAsked


@dataclass(frozen=True, kw_only=True)
class SitterPage:
    """A sitter: the window against sway, what fits, what turning does."""

    form: RecordForm
    errors: dict[str, str]
    plan: SitterPlan | None
    put: Put | None
    ring: RingView | None
    unit: Unit


def sitter_page(
    stored: StoredSetup, form: RecordForm, asked: SitterAsked | None, errors: dict[str, str], eye: Eye, unit: Unit
) -> SitterPage:
    """Compute the page."""
    plan = None
    if asked is not None:
        try:
            plan = plan_sitter(stored.setup, asked.distance_mm, asked.stop, asked.sway(eye), asked.offset_share)
        except WelotropeError as error:
            errors = {"stop" if error.key == "stop" else "distance": error.sentence}
    setting = plan.setting if plan else None
    return SitterPage(
        form=form, errors=errors, plan=plan, put=put(stored.setup, setting, unit) if setting else None,
        ring=ring_view(stored.setup, setting.angle_deg, setting.stop, [], unit) if setting else None, unit=unit,
    )  # fmt: skip
