"""What the page of light shows."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.errors import WelotropeError
from welotrope.core.plan.light_plan import Breaks, LightPlan, plan_light
from welotrope.core.plan.setting import ring_setting
from welotrope.core.units.distance import Unit
from welotrope.store.queries.kit import StoredSetup
from welotrope.web.components.ring.view import RingView, ring_view
from welotrope.web.forms.record_form import RecordForm
from welotrope.web.rooms.plan.light.form import LightAsked
from welotrope.web.rooms.plan.setting import Put, put


@dataclass(frozen=True, kw_only=True)
class LightPage:
    """The light: the plan, or why there is none; how the ring is put for the stop that works."""

    form: RecordForm
    errors: dict[str, str]
    plan: LightPlan | None
    ev: float
    put: Put | None
    ring: RingView | None
    film: bool
    unit: Unit

    @property
    def works(self) -> bool:
        """Whether a stop works."""
        return self.plan is not None and self.plan.best.breaks is Breaks.NOTHING


def light_page(
    stored: StoredSetup, form: RecordForm, asked: LightAsked | None, errors: dict[str, str], steady: float, unit: Unit
) -> LightPage:
    """Compute the page."""
    setup, plan = stored.setup, None
    if asked is not None:
        try:
            plan = plan_light(setup, asked.near_mm, asked.far_mm, asked.circumstances(steady))
        except WelotropeError as error:
            errors = {"near": error.sentence}
    setting = ring_setting(setup, plan.angle_deg, plan.best.stop) if plan else None
    return LightPage(
        form=form, errors=errors, plan=plan, ev=asked.ev if asked else 0.0,
        put=put(setup, setting) if setting else None,
        ring=ring_view(setup, setting.angle_deg, setting.stop, [], unit) if setting else None,
        film=setup.body.is_film, unit=unit,
    )  # fmt: skip
