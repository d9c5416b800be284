"""/plan/moving: a trap, and the reaction test it rests on."""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace
from typing import Annotated

from fastapi import APIRouter, Form
from starlette.responses import Response

from welotrope.core.aids.placing import Placed, placed_on
from welotrope.core.errors import Field, WelotropeError
from welotrope.core.exposure.motion import MOVERS
from welotrope.core.inputs import check_limits, field_spec, number_input, tick_input
from welotrope.core.kit.aids.models import Eye
from welotrope.core.kit.body import longest_words, shutter_of
from welotrope.core.plan.moving import MovingAsked, MovingPlan, Station, hand_of, plan_moving, reaction_of
from welotrope.core.plan.own_measures import OwnMeasures
from welotrope.core.plan.setting import Subject, place_subjects
from welotrope.core.ring.survey import distance_cell
from welotrope.core.units.distance import Unit
from welotrope.core.units.exposure import format_stop, snap_stop
from welotrope.core.units.turn import TurnUnit
from welotrope.store.queries import practice
from welotrope.store.queries.kit import StoredSetup
from welotrope.web.components.ground import GroundView, TimeAxis, ground_view, time_axis
from welotrope.web.components.ring import RingView, ring_view
from welotrope.web.components.setting import Put, put
from welotrope.web.forms import RecordForm, record_form
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.request.limits import local_path
from welotrope.web.request.query_form import read_asked
from welotrope.web.rooms.plan.inputs import path_asked, speed_asked, stop_asked
from welotrope.web.state.personal import Personal

_GOING = tuple(one for one in MOVERS if one.speed > 0.3)


@dataclass(frozen=True, kw_only=True)
class TrapAsked:
    """A trap: where, at which stop, what comes and how it is shot; mm, m/s, degrees, frames per second, ms."""

    distance_mm: float = field(
        metadata=field_spec(
            distance_cell(
                "distance",
                Field("distance", "distance"),
                "Catch it at",
                usual="5 m",
                half_empty="Write a distance, such as 5 m",
            )
        )
    )
    stop: float = field(metadata=field_spec(stop_asked(8.0)))
    speed: float = field(metadata=field_spec(speed_asked(_GOING, "walking", "Subject")))
    angle_deg: float = field(metadata=field_spec(path_asked(0.0)))
    receding: bool = field(metadata=field_spec(tick_input("receding", "moving away")))
    rate: float = field(
        metadata=field_spec(
            number_input(
                "rate",
                Field("rate", "burst rate"),
                "Burst rate",
                unit="frames per second",
                low=0.1,
                high=240,
                empty=3.0,
            )
        )
    )
    burst_s: float = field(
        metadata=field_spec(
            number_input("burst", Field("burst", "burst"), "Held for", unit="s", low=0.1, high=10, empty=1.0, usual="1")
        )
    )
    lag_ms: float = field(
        metadata=field_spec(
            number_input("lag", Field("lag", "release lag"), "Shutter lag", unit="ms", low=0, high=5000, empty=100.0)
        )
    )

    def __post_init__(self) -> None:
        check_limits(self)

    def planned(self, eye: Eye) -> MovingAsked:
        """Return what is planned, with the photographer's own reaction and turn."""
        return MovingAsked(
            distance_mm=self.distance_mm, stop=self.stop, speed=self.speed, angle_deg=self.angle_deg,
            receding=self.receding, rate=self.rate, lag_s=self.lag_ms / 1000, hand=hand_of(eye), burst_s=self.burst_s,
            turn_s=eye["ring_turn"],
        )  # fmt: skip


TrapForm = record_form(TrapAsked)


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


router = APIRouter()


@router.get("/plan/moving")
def moving(context: CurrentContext) -> Response:
    """Plan a trap."""
    stored = context.selected_setup()
    form, asked, errors = read_asked(TrapForm, context, _usual(context))
    page = moving_page(stored, form, asked, errors, context.personal(), context.preferences.unit)
    return context.page("plan/moving/page.html", page, status=422 if page.errors else 200)


@router.post("/plan/reaction")
def keep_reaction(
    context: CurrentContext, *, press: Annotated[list[str] | None, Form()] = None, back: Annotated[str, Form()] = ""
) -> Response:
    """Keep the photographer's reaction, measured in the page, s."""
    found = reaction_of(press or [])
    own = practice.own_constants(context.uow) | found.constants
    with context.undoable_transaction(f"Saved your reaction, {found.median_s * 1000:.0f} ms"):
        practice.save_constants(context.uow, own)
    return context.back_to(local_path(back, otherwise="/plan/moving"))


def _usual(context: RequestContext) -> dict[str, str]:
    setup = context.selected_setup().setup
    traits = setup.body.traits
    usual = {"stop": format_stop(snap_stop(5.6, setup.lens.stops))}
    usual |= {"rate": f"{traits.burst_fps:g}"} if traits.burst_fps else {}
    return usual | ({"lag": f"{traits.shutter_lag_ms:g}"} if traits.shutter_lag_ms is not None else {})
