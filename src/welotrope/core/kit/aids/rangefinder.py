"""Two pictures laid over each other by a coupled rangefinder."""

from __future__ import annotations

from dataclasses import dataclass, field

from welotrope.core import fields
from welotrope.core.hand.evidence import ShownBy
from welotrope.core.inputs import Group, Input, Text, field_spec, number_input
from welotrope.core.kit.aids import models
from welotrope.core.kit.aids.kind import (
    SET,
    TURN,
    AidJudgement,
    AidKind,
    AidRecord,
    Aids,
    AskedAid,
    Case,
    Chosen,
    FinderScene,
    FinderView,
    Patch,
    Through,
    eye_factor,
    positive,
)
from welotrope.core.kit.aids.models import Eye
from welotrope.core.kit.aids.shared import ASKED_FINDER, OF_A_FINDER, PRISMS_CENTRE
from welotrope.core.kit.aids.viewing_optics import Sensor, Target, ViewingOptics
from welotrope.core.rules import Finding, Rule
from welotrope.core.units.distance import parse_distance
from welotrope.core.units.exposure import format_stop
from welotrope.core.units.text import write_number

IN_ADJUSTMENT_MM = 2000.0
USUAL_MAGNIFICATION = 0.7
BASE = number_input(
    "rangefinder_base", fields.RANGEFINDER_BASE, "Rangefinder base", unit="mm", low=5, high=200, group=Group.FINDER
)
MAGNIFICATION = number_input(
    "rangefinder_magnification", fields.FINDER_MAGNIFICATION, "Rangefinder magnification", unit="×",
    says="rangefinder magnification", hint="0.7 is assumed", group=Group.FINDER,
    low=OF_A_FINDER[0], high=OF_A_FINDER[1],
)  # fmt: skip
READS = Input(
    name="rangefinder_reads", field=fields.RANGEFINDER_READS, label="Rangefinder: at 2 m it coincides on",
    read=lambda text, _typed: parse_distance(text, field=fields.RANGEFINDER_READS), low=1, high=10, per=1000.0,
    hint="As the scale reads; empty when it is in adjustment", optional=True, group=Group.FINDER,
)  # fmt: skip


@dataclass(frozen=True)
class RangefinderPatch(AidRecord):
    """Two pictures laid over each other by a coupled rangefinder.

    Parameters
    ----------
    base_mm
        Distance between its windows, 5 to 200 mm.
    finder_magnification
        Of its finder, 0.2 to 3.
    reads_mm
        Where its pictures coincide on the scale for a subject at 2 m, mm; 2000 when in adjustment.
    """

    base_mm: float = field(metadata=field_spec(BASE))
    finder_magnification: float = field(metadata=field_spec(MAGNIFICATION))
    reads_mm: float = field(default=IN_ADJUSTMENT_MM, metadata=field_spec(READS))


def _made(values: Chosen) -> RangefinderPatch | None:
    base, magnification, reads = (values[one.name] for one in (BASE, MAGNIFICATION, READS))
    if base is None:
        return None
    return RangefinderPatch(
        base,
        USUAL_MAGNIFICATION if magnification is None else magnification,
        IN_ADJUSTMENT_MM if reads is None else reads,
    )


def _texts(aid: RangefinderPatch) -> dict[str, Text]:
    return {
        BASE.name: write_number(aid.base_mm), MAGNIFICATION.name: write_number(aid.finder_magnification),
        READS.name: "" if aid.reads_mm == IN_ADJUSTMENT_MM else f"{aid.reads_mm / 1000:g} m",
    }  # fmt: skip


def _judge(
    aid: RangefinderPatch, sight: ViewingOptics, target: Target, _sensor: Sensor | None, eye: Eye
) -> AidJudgement:
    f, s = sight.focal_mm, sight.object_mm
    defocus = models.rangefinder_defocus(f, s, aid.base_mm, aid.finder_magnification, eye=eye) * eye_factor(target, eye)
    return AidJudgement(defocus_mm=defocus, bias_mm=models.rangefinder_bias(f, s, IN_ADJUSTMENT_MM, aid.reads_mm))


def _reach(case: Case) -> Finding | None:
    sight = case.sight
    if case.defocus_mm is None:
        return None
    # δ grows with f², the window with N·c: what just fits is f·√(window/δ), or N·δ/window.
    ratio = case.defocus_mm / sight.half_window_mm
    if ratio > 1:
        return Finding(
            text=f"its base is too short for this: at this distance it is fine enough for"
            f" {sight.focal_mm / ratio**0.5:.0f} mm at {format_stop(sight.stop)}, or for {sight.focal_mm:g} mm from"
            f" {format_stop(sight.stop * ratio)}"
        )
    return Finding(text=f"fine enough up to {sight.focal_mm / ratio**0.5:.0f} mm at {format_stop(sight.stop)} here")


def _meets(case: Case) -> Finding | None:
    if not case.works:
        return None
    return Finding(text="turn from infinity until the two pictures of an upright line meet, always from the same side")


def _bias(case: Case) -> Finding | None:
    if not case.bias_mm:
        return None
    side, way = ("behind", "nearer") if case.bias_mm > 0 else ("in front of", "farther")
    amount = f"{abs(case.bias_mm * case.sight.degrees_per_defocus):.1f}°"
    return Finding(
        text=f"it is out of adjustment: left where its pictures meet, every frame falls {amount} {side} the subject;"
        f" then turn {amount} {way}, and have it adjusted by a repairer"
    )


_TO_PRACTISE_ON = RangefinderPatch(47.0, 0.9)


def _seen(aids: Aids) -> FinderScene:
    patch: RangefinderPatch = aids.get("rangefinder", _TO_PRACTISE_ON)
    return FinderScene(
        through=Through.PLAIN, finder_magnification=patch.finder_magnification,
        parts=(Patch(patch.base_mm, patch.reads_mm),),
    )  # fmt: skip


RANGEFINDER = AidKind(
    tag="rangefinder",
    label="Rangefinder patch",
    about="A rangefinder patch; ``reads_mm`` is where it coincides for a subject at 2 m.",
    record=RangefinderPatch, by=ShownBy.RANGEFINDER,
    inputs=(BASE, MAGNIFICATION, READS),
    made=_made,
    texts=_texts,
    asked=(
        positive("base_mm"), ASKED_FINDER,
        positive("reads_mm", usual=IN_ADJUSTMENT_MM),
    ),
    request=lambda said: AskedAid(aid=RangefinderPatch(**said)),
    judges=_judge,
    rules=(
        PRISMS_CENTRE,
        Rule(id="rangefinder-reach", topic=SET, when="it works", says=_reach,
             source="its error grows with the square of the focal length"),
        Rule(id="rangefinder-bias", topic=TURN, when="it does not coincide on 2 m for a subject at 2 m", says=_bias,
             clears="adjustment by a repairer", source="a rangefinder out of adjustment misses on one side"),
        Rule(id="patch-meets", topic=TURN, when="it works", says=_meets,
             source="two pictures that meet are seen to meet; there is no sharp and beyond"),
    ),
    views=(FinderView(key="rangefinder", name="Rangefinder patch", seen=_seen),),
)  # fmt: skip
