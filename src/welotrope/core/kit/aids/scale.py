"""A distance judged by eye and set on the scale: the aid every lens with a scale has."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.hand.evidence import ShownBy
from welotrope.core.kit.aids import models
from welotrope.core.kit.aids.kind import SET, AidJudgement, AidKind, AidRecord, AskedAid
from welotrope.core.kit.aids.models import Eye
from welotrope.core.kit.aids.viewing_optics import Sensor, Target, ViewingOptics
from welotrope.core.rules import Finding, Rule


@dataclass(frozen=True)
class ScaleByEye(AidRecord):
    """The engraved scale; there is nothing to know of it."""


def _judge(_aid: ScaleByEye, sight: ViewingOptics, _target: Target, _sensor: Sensor | None, eye: Eye) -> AidJudgement:
    return AidJudgement(
        defocus_mm=models.scale_defocus(sight.focal_mm, sight.object_mm, sight.degrees_per_defocus, eye=eye)
    )


SCALE = AidKind(
    tag="scale",
    label="Scale, by eye",
    about="A distance judged by eye and set on the scale.",
    record=ScaleByEye, by=ShownBy.SCALE,
    request=lambda _said: AskedAid(aid=ScaleByEye()),
    judges=_judge,
    rules=(
        Rule(id="scale-guess", topic=SET, when="always",
             says=lambda _case: Finding(text="set the estimated distance; for zones and small apertures"),
             source="the plane is where you judge the subject to be"),
    ),
)  # fmt: skip
