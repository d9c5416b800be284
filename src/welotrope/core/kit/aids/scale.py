"""A distance judged by eye and set on the scale: the aid every lens with a scale has."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.hand.shot import ShownBy
from welotrope.core.kit.aids import models
from welotrope.core.kit.aids.constants import Eye
from welotrope.core.kit.aids.kind import SET, AidKind, AidRecord, AskedAid, Judged
from welotrope.core.kit.aids.sight import Sensor, Sight, Target
from welotrope.core.rules import Rule, Said


@dataclass(frozen=True)
class ScaleByEye(AidRecord):
    """The engraved scale; there is nothing to know of it."""


def _judge(_aid: ScaleByEye, sight: Sight, _target: Target, _sensor: Sensor | None, eye: Eye) -> Judged:
    return Judged(defocus_mm=models.scale_defocus(sight.focal_mm, sight.object_mm, sight.degrees_per_defocus, eye))


SCALE = AidKind(
    tag="scale",
    label="Scale, by eye",
    about="A distance judged by eye and set on the scale.",
    record=ScaleByEye, by=ShownBy.SCALE,
    request=lambda _said: AskedAid(aid=ScaleByEye()),
    judges=_judge,
    rules=(
        Rule(id="scale-guess", topic=SET, when="always",
             says=lambda _case: Said(text="set the estimated distance; for zones and small apertures"),
             source="the plane is where you judge the subject to be"),
    ),
)  # fmt: skip
