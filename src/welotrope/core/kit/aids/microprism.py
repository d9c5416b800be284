"""A patch or collar of small prisms in a screen that shimmers until sharp."""

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
    Prisms,
    eye_factor,
)
from welotrope.core.kit.aids.matte import screen_seen
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
from welotrope.core.kit.aids.viewing_optics import Sensor, Target, ViewingOptics
from welotrope.core.rules import Finding, Rule
from welotrope.core.units.text import write_number

USUAL_DEG = 5.0
MICROPRISM_DEVIATION = number_input(
    "microprism_deviation", fields.PRISM, "Microprism: prism deviation", unit="degrees", says=fields.PRISM,
    group=Group.AIDS, hint="Empty without one; typically about 5", low=OF_A_PRISM[0], high=OF_A_PRISM[1],
)  # fmt: skip


@dataclass(frozen=True)
class Microprism(AidRecord):
    """A patch or collar of small prisms in a screen that shimmers until sharp; ``prism_deg`` bends light, 2° to 20°."""

    finder_magnification: float = field(metadata=field_spec(FINDER_MAGNIFICATION))
    prism_deg: float = field(default=USUAL_DEG, metadata=field_spec(MICROPRISM_DEVIATION))

    @property
    def deviation_deg(self) -> float:
        """Deviation in degrees, as a split image calls it; the field is named apart so that files can tell the two."""
        return self.prism_deg


def _made(values: Chosen) -> Microprism | None:
    magnification, deviation = values["finder_magnification"], values["microprism_deviation"]
    return None if magnification is None or deviation is None else Microprism(magnification, deviation)


def _judge(aid: Microprism, sight: ViewingOptics, target: Target, _sensor: Sensor | None, eye: Eye) -> AidJudgement:
    defocus = models.microprism_defocus(aid.finder_magnification, aid.prism_deg, eye=eye) * eye_factor(target, eye)
    return AidJudgement(defocus_mm=defocus if wedge_lit(aid, sight) else None)


def _prisms(aids: Aids, *, collar: bool = False) -> Prisms:
    """Return the body's prisms, or usual ones to practise on."""
    return Prisms(aids["microprism"].prism_deg if "microprism" in aids else USUAL_DEG, collar)


def collar_of(aids: Aids) -> Prisms:
    """Return the prisms as a collar round the middle.

    Parameters
    ----------
    aids
        The aids of the body in hand.
    """
    return _prisms(aids, collar=True)


def _texture(case: Case) -> Finding | None:
    return Finding(text="lay it on texture; no line is needed") if case.works else None


def _shimmer(case: Case) -> Finding | None:
    return Finding(text="turn until the shimmer stops, pass it and come back") if case.works else None


MICROPRISM = AidKind(
    tag="microprism",
    label="Microprism",
    about="A microprism.",
    record=Microprism, by=ShownBy.SCREEN,
    inputs=(FINDER_MAGNIFICATION, MICROPRISM_DEVIATION),
    made=_made,
    texts=lambda aid: {"microprism_deviation": write_number(aid.prism_deg)},
    asked=(
        ASKED_FINDER,
        AidInput(name="deviation_deg", low=0.1, high=45, usual=USUAL_DEG),
    ),
    request=lambda said: AskedAid(aid=Microprism(said["finder_magnification"], check_prism(said["deviation_deg"]))),
    judges=_judge,
    rules=(
        dark_wedge("its prisms go dark"),
        Rule(id="prism-texture", topic=SET, when="its prisms are lit", says=_texture,
             source="prisms need detail, not lines"),
        Rule(id="prism-shimmer", topic=TURN, when="its prisms are lit", says=_shimmer,
             source="the shimmer goes either side of sharp"),
        PRISMS_CENTRE,
    ),
    views=(
        FinderView(key="microprism", name="Microprism",
                   seen=lambda aids: screen_seen(aids, _prisms(aids))),
    ),
    glass=True,
)  # fmt: skip
