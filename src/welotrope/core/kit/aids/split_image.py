"""Two opposed prisms in a screen: a line across them breaks until it is sharp."""

from __future__ import annotations

from dataclasses import dataclass, field

from welotrope.core import fields
from welotrope.core.hand.evidence import ShownBy
from welotrope.core.inputs import Group, field_spec, number_input
from welotrope.core.kit.aids import models
from welotrope.core.kit.aids.kind import (
    SET,
    TURN,
    AidInput,
    AidJudgement,
    AidKind,
    AidRecord,
    Aids,
    AskedAid,
    Case,
    Chosen,
    FinderView,
    Split,
    eye_factor,
)
from welotrope.core.kit.aids.matte import screen_seen
from welotrope.core.kit.aids.microprism import collar_of
from welotrope.core.kit.aids.models import Eye
from welotrope.core.kit.aids.shared import (
    ASKED_FINDER,
    FINDER_MAGNIFICATION,
    OF_A_PRISM,
    PRISMS_CENTRE,
    check_prism,
    dark_wedge,
    wedge_lit,
)
from welotrope.core.kit.aids.viewing_optics import Lines, Sensor, Target, ViewingOptics
from welotrope.core.rules import Finding, Rule
from welotrope.core.units.text import write_number

USUAL_DEG = 6.5
SPLIT_DEVIATION = number_input(
    "split_deviation", fields.PRISM, "Split image: prism deviation", unit="degrees", says=fields.PRISM,
    group=Group.AIDS,
    hint="Empty without a split image. If unknown: 6.5, which blacks out between f/4 and f/5.6",
    low=OF_A_PRISM[0], high=OF_A_PRISM[1],
)  # fmt: skip


@dataclass(frozen=True)
class SplitImage(AidRecord):
    """Two opposed prisms in a screen; ``deviation_deg`` is the angle each bends light, 2° to 20°."""

    finder_magnification: float = field(metadata=field_spec(FINDER_MAGNIFICATION))
    deviation_deg: float = field(default=USUAL_DEG, metadata=field_spec(SPLIT_DEVIATION))


def _made(values: Chosen) -> SplitImage | None:
    magnification, deviation = values["finder_magnification"], values["split_deviation"]
    return None if magnification is None or deviation is None else SplitImage(magnification, deviation)


def _judge(aid: SplitImage, sight: ViewingOptics, target: Target, _sensor: Sensor | None, eye: Eye) -> AidJudgement:
    lit = wedge_lit(aid, sight) and target.lines is not Lines.NONE
    defocus = models.split_image_defocus(aid.finder_magnification, aid.deviation_deg, eye=eye) * eye_factor(target, eye)
    return AidJudgement(defocus_mm=defocus if lit else None)


def _deviation(aids: Aids) -> float:
    """Return the deviation of the body's split image, or a usual one to practise on, degrees."""
    return aids["split_image"].deviation_deg if "split_image" in aids else USUAL_DEG


def _line(case: Case) -> Finding | None:
    if not case.works and case.target.lines is not Lines.NONE:
        return None
    return Finding(
        text={
            Lines.ACROSS: "lay a line across the split",
            Lines.BOTH: "lay a line across the split; turn the camera if lines run along it",
            Lines.ALONG: "turn the camera 90°: the lines run along the split and would not break",
            Lines.NONE: "there is no line to break: use the matte screen around it",
        }[case.target.lines]
    )


def _meet(case: Case) -> Finding | None:
    return Finding(text="turn until the halves meet, pass it and come back") if case.works else None


SPLIT_IMAGE = AidKind(
    tag="split_image",
    label="Split image",
    about="A split image.",
    record=SplitImage, by=ShownBy.SCREEN,
    inputs=(FINDER_MAGNIFICATION, SPLIT_DEVIATION),
    made=_made,
    texts=lambda aid: {"split_deviation": write_number(aid.deviation_deg)},
    asked=(
        ASKED_FINDER,
        AidInput(name="deviation_deg", low=0.1, high=45, usual=USUAL_DEG),
    ),
    request=lambda said: AskedAid(aid=SplitImage(said["finder_magnification"], check_prism(said["deviation_deg"]))),
    judges=_judge,
    rules=(
        dark_wedge("one half goes black"),
        Rule(id="split-needs-line", topic=SET, when="a line is wanted, or there is none", says=_line,
             source="halves part only where a line crosses the split"),
        PRISMS_CENTRE,
        Rule(id="halves-meet", topic=TURN, when="its prisms are lit", says=_meet,
             source="one turns better to a meeting than to a guess of it"),
    ),
    views=(
        FinderView(key="split_image", name="Split image", seen=lambda aids: screen_seen(aids, Split(_deviation(aids)))),
        FinderView(key="diagonal", name="Split image, diagonal",
                   seen=lambda aids: screen_seen(aids, Split(_deviation(aids), along_deg=45.0))),
        FinderView(key="collar", name="Split image with collar", with_tags=("microprism",),
                   seen=lambda aids: screen_seen(aids, Split(_deviation(aids)), collar_of(aids))),
    ),
    glass=True,
)  # fmt: skip
