"""What the page of a night shows."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.errors import WelotropeError
from welotrope.core.kit.camera_kind import ScaleShown
from welotrope.core.plan.night_plan import NightPlan, NightStep, night_steps, plan_night
from welotrope.core.units.distance import Unit
from welotrope.store.queries.kit import StoredSetup
from welotrope.web.components.ring.view import RingView, ring_view
from welotrope.web.components.setting.view import Put, put
from welotrope.web.forms.record_form import RecordForm
from welotrope.web.rooms.plan.night.form import NightAsked


@dataclass(frozen=True, kw_only=True)
class NightPage:
    """A night: where infinity is, what a little of the ring costs, how long to expose, step by step.

    ``sights`` tells whether there is a ring on which infinity can be sighted and kept.
    """

    form: RecordForm
    errors: dict[str, str]
    plan: NightPlan | None
    put: Put | None
    ring: RingView | None
    steps: tuple[NightStep, ...]
    sights: bool
    unit: Unit


def night_page(
    stored: StoredSetup, form: RecordForm, asked: NightAsked | None, errors: dict[str, str], unit: Unit
) -> NightPage:
    """Compute the page."""
    setup, plan = stored.setup, None
    exponent = asked.exponent if asked and setup.body.is_film else None
    if asked is not None:
        try:
            plan = plan_night(
                setup,
                asked.stop,
                declination_deg=asked.declination_deg,
                foreground_mm=asked.foreground_mm,
                exponent=exponent,
            )
        except WelotropeError as error:
            errors = {"foreground" if error.key == "foreground" else "stop": error.sentence}
    setting = plan.setting if plan else None
    return NightPage(
        form=form, errors=errors, plan=plan, put=put(setup, setting, unit) if setting else None,
        ring=ring_view(setup, setting.angle_deg, setting.stop, [], unit) if setting else None,
        steps=night_steps(plan, setup.blur_mm, film=setup.body.is_film, corrected=bool(exponent)) if plan else (),
        sights=setup.body.kind.scale is ScaleShown.RING, unit=unit,
    )  # fmt: skip
