"""A ground or finely patterned screen behind an eyepiece."""

from __future__ import annotations

from dataclasses import dataclass, field

from welotrope.core import fields
from welotrope.core.hand.evidence import ShownBy
from welotrope.core.inputs import Group, Input, field_spec
from welotrope.core.kit.aids import models
from welotrope.core.kit.aids.kind import (
    SET,
    AidJudgement,
    AidKind,
    AidRecord,
    Aids,
    AskedAid,
    Case,
    Chosen,
    FinderScene,
    FinderView,
    Part,
    eye_factor,
    positive,
)
from welotrope.core.kit.aids.models import Eye
from welotrope.core.kit.aids.shared import ASKED_FINDER, FINDER_MAGNIFICATION, POINTS_SMALLEST, THROUGH_AND_BACK
from welotrope.core.kit.aids.viewing_optics import Sensor, Target, ViewingOptics
from welotrope.core.rules import Finding, Rule
from welotrope.core.units.exposure import format_stop, parse_stop
from welotrope.core.units.text import write_number

BRIGHT_SCREEN = 2.8
SCREEN_STOP = Input(
    name="screen_stop", field=fields.SCREEN_STOP, label="Screen brightness stop", mode="decimal", group=Group.AIDS,
    read=lambda text, _typed: parse_stop(text, field=fields.SCREEN_STOP), low=0.7, high=8, optional=True,
    hint="Widest aperture whose depth of field the screen still shows. If empty: 2.8, as for bright screens",
)  # fmt: skip


@dataclass(frozen=True)
class MatteScreen(AidRecord):
    """A ground or finely patterned screen behind an eyepiece.

    Parameters
    ----------
    finder_magnification
        As quoted with a 50 mm lens at infinity, 0.2 to 3.
    screen_stop
        Stop below which the screen shows no shallower depth; about 2.8 for bright screens.
    """

    finder_magnification: float = field(metadata=field_spec(FINDER_MAGNIFICATION))
    screen_stop: float = field(default=BRIGHT_SCREEN, metadata=field_spec(SCREEN_STOP))


_USUAL = MatteScreen(0.9)


def _made(values: Chosen) -> MatteScreen | None:
    magnification, stop = values["finder_magnification"], values["screen_stop"]
    return None if magnification is None else MatteScreen(magnification, BRIGHT_SCREEN if stop is None else stop)


def _judge(aid: MatteScreen, sight: ViewingOptics, target: Target, _sensor: Sensor | None, eye: Eye) -> AidJudgement:
    defocus = models.matte_defocus(aid.finder_magnification, sight.working_view_stop, aid.screen_stop, eye=eye)
    return AidJudgement(defocus_mm=defocus * eye_factor(target, eye))


def _depth(case: Case) -> Finding:
    if case.aid.screen_stop > case.sight.stop:
        shows, has = format_stop(case.aid.screen_stop), format_stop(case.sight.stop)
        return Finding(text=f"shows the depth of {shows}, more than {has} will have; do not judge blur on it")
    return Finding(text="works anywhere on the frame; swing through sharp and come back")


def screen_seen(aids: Aids, *parts: Part) -> FinderScene:
    """Return a screen of glass with parts in it; where the body has none, a usual one to practise on.

    Parameters
    ----------
    aids
        The aids of the body in hand.
    *parts
        What is drawn in the finder besides, in order.
    """
    finder = next((aids[tag] for tag in ("matte", "split_image", "microprism") if tag in aids), _USUAL)
    stop = aids.get("matte", _USUAL).screen_stop
    return FinderScene(screen_stop=stop, finder_magnification=finder.finder_magnification, parts=parts)


MATTE = AidKind(
    tag="matte",
    label="Matte screen",
    about="A matte screen.",
    record=MatteScreen, by=ShownBy.SCREEN,
    inputs=(FINDER_MAGNIFICATION, SCREEN_STOP),
    made=_made,
    texts=lambda aid: {
        "finder_magnification": write_number(aid.finder_magnification), "screen_stop": write_number(aid.screen_stop),
    },
    asked=(
        ASKED_FINDER, positive("screen_stop", usual=BRIGHT_SCREEN),
    ),
    request=lambda said: AskedAid(aid=MatteScreen(**said)),
    judges=_judge,
    rules=(
        Rule(id="matte-depth", topic=SET, when="always", says=_depth,
             source="a bright screen passes only the narrow middle of a fast cone"),
        POINTS_SMALLEST,
        THROUGH_AND_BACK,
    ),
    views=(FinderView(key="matte", name="Matte screen", seen=screen_seen),),
    glass=True,
)  # fmt: skip
