"""What the page of a moving subject shows."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from welotrope.core.aids.placing import Placed, placed_on
from welotrope.core.errors import WelotropeError
from welotrope.core.kit.body import longest_words, shutter_of
from welotrope.core.plan.moving import MovingPlan, Station, plan_moving
from welotrope.core.plan.own_measures import OwnMeasures
from welotrope.core.plan.setting import Subject, place_subjects
from welotrope.core.units.distance import Unit
from welotrope.core.units.turn import TurnUnit
from welotrope.store.queries.kit import StoredSetup
from welotrope.web.components.ground.times import TimeAxis, time_axis
from welotrope.web.components.ground.view import GroundView, ground_view
from welotrope.web.components.ring.view import RingView, ring_view
from welotrope.web.components.setting.view import Put, put
from welotrope.web.forms.record_form import RecordForm
from welotrope.web.rooms.plan.moving.form import TrapAsked
from welotrope.web.state.personal import Personal


@dataclass(frozen=True, kw_only=True)
class MovingPage:
    """A trap: when to press, the chances, and the stations after it, drawn on the ground with its time."""

    form: RecordForm
    errors: dict[str, str]
    plan: MovingPlan | None
    placed_with: Placed | None
    put: Put | None
    ring: RingView | None
    ground: GroundView | None
    times: TimeAxis | None
    press_words: str
    reaction_ms: float
    presses: int
    burst_s: float
    frames_in_burst: int
    frames_words: str
    frozen_words: str
    turn_in: TurnUnit | None
    unit: Unit


def moving_page(
    stored: StoredSetup, form: RecordForm, asked: TrapAsked | None, errors: dict[str, str], personal: Personal,
    unit: Unit,
) -> MovingPage:  # fmt: skip
    """Compute the page."""
    setup, eye, plan, placed = stored.setup, personal.eye, None, None
    if asked is not None:
        try:
            placed = placed_on(setup, asked.distance_mm, asked.stop, eye, hands=personal.hands)
            planned = asked.planned(eye)
            pressing = planned.hand
            if placed:
                pressing = replace(pressing, placed=placed.hands, focusing=placed.focusing)
            plan = plan_moving(setup, replace(planned, hand=pressing))
        except WelotropeError as error:
            errors = {error.key if error.key in ("speed", "stop") else "distance": error.sentence}
    first = plan.first if plan else None
    ground = _ground(stored, first, unit) if first else None
    return MovingPage(
        form=form, errors=errors, plan=plan, placed_with=placed, put=put(setup, first.setting, unit) if first else None,
        ring=ring_view(setup, first.setting.angle_deg, first.setting.stop, [], unit) if first else None, ground=ground,
        times=time_axis(ground.axis, first.trap) if first and ground and first.trap.is_in_view else None,
        press_words=OwnMeasures.of(eye).words(first.trap.press_at_mm) if first and first.trap.is_in_view else "",
        reaction_ms=eye["reaction"] * 1000,
        presses=round(eye["reaction_presses"]), burst_s=asked.burst_s if asked else 1.0,
        frames_in_burst=max(1, math.floor(asked.burst_s * asked.rate)) if asked else 0,
        frames_words=_about(first.trap.frames) if first else "",
        frozen_words=longest_words(shutter_of(setup.body), plan.frozen_s) if plan else "",
        turn_in=setup.turn_in, unit=unit,
    )  # fmt: skip


def _about(frames: float) -> str:
    """Say how many frames fall into the zone, on average."""
    return f"{frames:.1f}" if frames < 9.95 else f"about {frames:.0f}"


def _ground(stored: StoredSetup, first: Station, unit: Unit) -> GroundView:
    at = first.setting
    press = Subject("press here", first.trap.press_at_mm)
    shown = first.trap.is_in_view and math.isfinite(press.distance_mm)
    pegs = place_subjects([press], at.zone) if shown else []
    return ground_view(stored.setup.lens.closest_mm, at.focus_mm, at.near_mm, at.far_mm, pegs, unit)
