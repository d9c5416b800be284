"""An electronic focus indicator that works through a base of its own."""

from __future__ import annotations

from dataclasses import dataclass, field

from welotrope.core import fields
from welotrope.core.hand.evidence import ShownBy
from welotrope.core.inputs import Group, Input, field_spec, number_input, tick_input
from welotrope.core.kit.aids import models
from welotrope.core.kit.aids.kind import (
    FAIL,
    TURN,
    AidJudgement,
    AidKind,
    AidRecord,
    AskedAid,
    Case,
    Chosen,
    FinderView,
    Indicator,
    positive,
)
from welotrope.core.kit.aids.matte import screen_seen
from welotrope.core.kit.aids.models import Eye
from welotrope.core.kit.aids.viewing_optics import Sensor, Target, ViewingOptics
from welotrope.core.rules import Finding, Rule
from welotrope.core.units.exposure import format_stop, parse_stop
from welotrope.core.units.text import write_number

USUAL_STOP = 5.6
BASE_STOP = Input(
    name="confirmation_stop", field=fields.INDICATOR_STOP, label="Focus confirmation: base aperture", low=1, high=16,
    read=lambda text, _typed: parse_stop(text, field=fields.INDICATOR_STOP), optional=True, hint="If empty: f/5.6",
    group=Group.FINDER,
)  # fmt: skip
HALF_BAND = number_input(
    "confirmation_half", fields.INDICATOR_BAND, "Focus confirmation: half its dead band", unit="mm", low=0.001, high=2,
    hint="Measure it under Aids, from where it lights and goes out; empty for a typical value", group=Group.FINDER,
)  # fmt: skip
HAS_ONE = tick_input("confirmation", "Electronic focus confirmation", group=Group.FINDER)


@dataclass(frozen=True)
class Confirmation(AidRecord):
    """An electronic focus indicator that works through a base of ``base_stop``.

    ``half_mm`` is half the defocus over which it stays lit, mm, where that was measured; None for a usual one.
    """

    base_stop: float = field(default=USUAL_STOP, metadata=field_spec(BASE_STOP))
    half_mm: float | None = field(default=None, metadata=field_spec(HALF_BAND))


def _made(values: Chosen) -> Confirmation | None:
    stop = values[BASE_STOP.name]
    if not values[HAS_ONE.name]:
        return None
    return Confirmation(USUAL_STOP if stop is None else stop, values[HALF_BAND.name])


def _judge(aid: Confirmation, sight: ViewingOptics, _target: Target, _sensor: Sensor | None, eye: Eye) -> AidJudgement:
    if aid.half_mm is not None:
        return AidJudgement(defocus_mm=aid.half_mm)
    band = models.confirmation_band(sight.diagonal_mm, eye=eye)
    return AidJudgement(defocus_mm=models.confirmation_defocus(aid.base_stop, sight.working_view_stop, band))


def _side(case: Case) -> Finding | None:
    if case.defocus_mm is None:
        return None
    width = 2 * case.defocus_mm * case.sight.degrees_per_defocus
    return Finding(
        text=f"stays lit over {width:.1f}°: note where it goes on and where it goes off, and set the middle; an arrow"
        " says which way to turn"
    )


def _slow(case: Case) -> Finding | None:
    if case.sight.working_view_stop > case.aid.base_stop:
        return Finding(text=f"slower than its base {format_stop(case.aid.base_stop)}: may not work at all")
    return None


CONFIRMATION = AidKind(
    tag="confirmation",
    label="Focus confirmation",
    about="An electronic focus confirmation.",
    record=Confirmation, by=ShownBy.LAMP,
    inputs=(HAS_ONE, BASE_STOP, HALF_BAND),
    made=_made,
    texts=lambda aid: {
        HAS_ONE.name: "yes", BASE_STOP.name: write_number(aid.base_stop), HALF_BAND.name: write_number(aid.half_mm),
    },
    asked=(positive("base_stop", usual=USUAL_STOP),),
    request=lambda said: AskedAid(aid=Confirmation(**said)),
    judges=_judge,
    rules=(
        Rule(id="confirmation-middle", topic=TURN, when="it works", says=_side, source="it has dead travel"),
        Rule(id="confirmation-slow", topic=FAIL, when="the lens is slower than its base", says=_slow,
             clears="focus at a wider stop", source="a slow lens does not fill its base"),
    ),
    views=(
        FinderView(key="confirmation", name="Focus confirmation",
                   seen=lambda aids: screen_seen(aids, Indicator(aids.get("confirmation", Confirmation()).base_stop))),
    ),
)  # fmt: skip
