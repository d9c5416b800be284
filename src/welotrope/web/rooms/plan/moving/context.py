"""What the page of a moving subject shows."""

from __future__ import annotations

import math
from dataclasses import dataclass

from welotrope.core.errors import WelotropeError
from welotrope.core.kit.aids.constants import Eye
from welotrope.core.plan.moving import MovingPlan, Station, plan_moving
from welotrope.core.plan.own_measures import OwnMeasures
from welotrope.core.plan.subjects import Subject, place_subjects
from welotrope.core.units.distance import Unit
from welotrope.store.queries.kit import StoredSetup
from welotrope.web.components.ground.times import TimeAxis, time_axis
from welotrope.web.components.ground.view import GroundView, ground_view
from welotrope.web.components.ring.view import RingView, ring_view
from welotrope.web.forms.record_form import RecordForm
from welotrope.web.rooms.plan.moving.form import TrapAsked
from welotrope.web.rooms.plan.setting import Put, put


@dataclass(frozen=True, kw_only=True)
class MovingPage:
    """A trap: when to press, the chances, and the stations after it, drawn on the ground with its time."""

    form: RecordForm
    errors: dict[str, str]
    plan: MovingPlan | None
    put: Put | None
    ring: RingView | None
    ground: GroundView | None
    times: TimeAxis | None
    press_words: str
    reaction_ms: float
    presses: int
    burst_s: float
    frames_in_burst: int
    step_deg: float | None
    unit: Unit


def moving_page(
    stored: StoredSetup, form: RecordForm, asked: TrapAsked | None, errors: dict[str, str], eye: Eye, unit: Unit
) -> MovingPage:
    """Compute the page."""
    setup, plan = stored.setup, None
    if asked is not None:
        try:
            plan = plan_moving(setup, asked.planned(eye))
        except WelotropeError as error:
            errors = {"speed" if error.key == "speed" else "distance": error.sentence}
    first = plan.first if plan else None
    ground = _ground(stored, first, unit) if first else None
    return MovingPage(
        form=form, errors=errors, plan=plan, put=put(setup, first.setting) if first else None,
        ring=ring_view(setup, first.setting.angle_deg, first.setting.stop, [], unit) if first else None, ground=ground,
        times=time_axis(ground.axis, first.trap) if first and ground else None,
        press_words=OwnMeasures.of(eye).words(first.trap.press_at_mm) if first else "",
        reaction_ms=eye["reaction"] * 1000,
        presses=round(eye["reaction_presses"]), burst_s=asked.burst_s if asked else 1.0,
        frames_in_burst=max(1, math.floor(asked.burst_s * asked.rate)) if asked else 0, step_deg=setup.known.step_deg,
        unit=unit,
    )  # fmt: skip


def _ground(stored: StoredSetup, first: Station, unit: Unit) -> GroundView:
    at = first.setting
    press = Subject("press here", max(first.trap.press_at_mm, stored.setup.lens.closest_mm))
    pegs = place_subjects([press], at.zone) if math.isfinite(press.distance_mm) else []
    return ground_view(stored.setup.lens.closest_mm, at.focus_mm, at.near_mm, at.far_mm, pegs, unit)
