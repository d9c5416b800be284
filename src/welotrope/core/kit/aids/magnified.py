"""A live picture enlarged in steps, and what every aid on a live picture shares: the display and its magnifications."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import NamedTuple

from welotrope.core import fields
from welotrope.core.errors import OutOfRangeError, UnreadableError
from welotrope.core.hand.evidence import ShownBy
from welotrope.core.inputs import FormInput, Group, Input, Text, field_spec, whole_input
from welotrope.core.kit.aids import models
from welotrope.core.kit.aids.kind import (
    FAIL,
    SET,
    AidInput,
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
    Through,
    eye_factor,
    needed,
    positive,
)
from welotrope.core.kit.aids.models import Eye
from welotrope.core.kit.aids.recompose import recompose_holds
from welotrope.core.kit.aids.shared import POINTS_SMALLEST, THROUGH_AND_BACK
from welotrope.core.kit.aids.viewing_optics import Sensor, Target, ViewingOptics
from welotrope.core.rules import Finding, Rule
from welotrope.core.units.text import number

USUAL_PX, USUAL_STEPS = 1280, (5.0, 10.0)
DISPLAY_PX = whole_input(
    "display_px", fields.DISPLAY_PX, "Live view: display pixels across", 160, 10_000, group=Group.AIDS,
    hint="A display of 1.04 million dots shows about 720, an electronic finder of 3.7 million 1280; 1280 is assumed",
)  # fmt: skip
ASKED_DISPLAY = (
    positive("pitch_mm"),
    AidInput(name="sensor_px", low=100, high=100_000, whole=True),
    AidInput(name="display_px", low=100, high=100_000, whole=True),
)

MOST_STEPS, MOST_MAGNIFIED = 12, 60.0
_USUAL_ACROSS = 6000  # pixels of a sensor of which nothing is said


def display_seen(aids: Aids, *parts: Part) -> FinderScene:
    """Return a live picture with parts in it, magnified as the body magnifies, or as is usual.

    Parameters
    ----------
    aids
        The aids of the body in hand.
    *parts
        What is drawn in the finder besides, in order.
    """
    pixels = next((aids[tag].display_px for tag in ("peaking", "magnified") if tag in aids), USUAL_PX)
    steps = aids["magnified"].steps if "magnified" in aids else USUAL_STEPS
    return FinderScene(through=Through.DISPLAY, parts=parts, display_px=pixels, steps=steps)


class QuotedSteps(NamedTuple):
    """Magnification steps over the whole picture, and the pixels they are quoted in per cent of; 0 for times."""

    steps: tuple[float, ...] = ()
    percent_px: int = 0


def _read_steps(text: str, typed: FormInput) -> QuotedSteps:
    """Read steps as times over the whole picture, or as per cent of the sensor's pixels, as some makers quote them."""
    parts = text.replace("×", " ").replace(",", " ").replace(";", " ").replace(" %", "%").split()[:MOST_STEPS]
    if not any(part.endswith("%") for part in parts):
        return QuotedSteps(tuple(sorted({number(part, "magnification step") for part in parts})))
    if not all(part.endswith("%") for part in parts):
        raise UnreadableError(
            "magnification steps", text, "some are in per cent and some are not", "Write all alike: 6 12, or 100% 200%"
        )
    across = _pixels(typed, "width_px") or _USUAL_ACROSS
    shown = _pixels(typed, DISPLAY_PX.name) or USUAL_PX
    shares = sorted({number(part[:-1], "magnification step") / 100 for part in parts})
    return QuotedSteps(tuple(round(share * across / shown, 4) for share in shares), across)


def _pixels(typed: FormInput, name: str) -> int:
    text = typed.text(name)
    return int(text) if text.isascii() and text.isdigit() else 0


def _check_steps(steps: tuple[float, ...]) -> None:
    if not 1 <= len(steps) <= MOST_STEPS:
        raise OutOfRangeError("number of magnification steps", len(steps), "out of range", f"Write 1 to {MOST_STEPS}")
    for step in steps:
        if not 1 <= step <= MOST_MAGNIFIED:
            raise OutOfRangeError(fields.MAGNIFY_STEP, f"{step:g}", "out of range", f"Write 1 to {MOST_MAGNIFIED:g}")


STEPS = Input(
    name="steps", field=fields.MAGNIFY_STEP, label="Magnification steps",
    hint="Over the whole picture, e.g. 6 12; or in per cent of the pixels, as some quote them: 100% 200%",
    read=_read_steps, valid=lambda quoted: _check_steps(quoted.steps), optional=True, empty=QuotedSteps(),
    write=lambda quoted: " ".join(f"{step:g}" for step in quoted.steps), group=Group.AIDS,
)  # fmt: skip
_STEPS_KEPT = replace(STEPS, valid=_check_steps)


@dataclass(frozen=True)
class MagnifiedView(AidRecord):
    """A live picture enlarged in steps.

    Parameters
    ----------
    display_px
        Picture width on the display, in display pixels, when the whole frame is shown.
    steps
        Magnifications over the whole-frame view, such as (6, 12); 1 to 60.
    percent_px
        Pixels across the sensor where the steps are quoted in per cent of its pixels; 0 where they are quoted in times.
    """

    display_px: int = field(metadata=field_spec(DISPLAY_PX))
    steps: tuple[float, ...] = field(metadata=field_spec(_STEPS_KEPT))
    percent_px: int = 0

    def words(self, step: float) -> str:
        """Write a step as the camera quotes it: ``6×``, or ``100 %`` of the sensor's pixels."""
        if not self.percent_px:
            return f"{step:g}×"
        return f"{100 * step * self.display_px / self.percent_px:.0f} %"


def _made(values: Chosen) -> MagnifiedView | None:
    quoted: QuotedSteps = values[STEPS.name] or QuotedSteps()
    return MagnifiedView(values[DISPLAY_PX.name] or USUAL_PX, *quoted) if quoted.steps else None


def _texts(aid: MagnifiedView) -> dict[str, Text]:
    written = [aid.words(step).replace(" ", "").removesuffix("×") for step in aid.steps]
    return {DISPLAY_PX.name: str(aid.display_px), STEPS.name: " ".join(written)}


def _request(said: Chosen) -> AskedAid:
    sensor = Sensor(said["pitch_mm"], said["sensor_px"])
    return AskedAid(aid=MagnifiedView(said["display_px"], (said["step"],)), sensor=sensor)


def _judge(aid: MagnifiedView, sight: ViewingOptics, target: Target, sensor: Sensor | None, eye: Eye) -> AidJudgement:
    pixels = needed(sensor)
    factor = eye_factor(target, eye, live=True)
    steps = sorted(aid.steps)
    blurs = {
        step: models.magnified_blur(pixels.pitch_mm, pixels.width_px, aid.display_px, step, eye=eye) * factor
        for step in steps
    }
    finest = min(blurs.values())
    # An aid resolves the standard when the blur it just shows is no larger than the blur allowed there.
    step = next(
        (step for step in steps if blurs[step] <= sight.view_blur_mm),
        next(step for step in steps if blurs[step] <= finest * (1 + 1e-9)),
    )
    larger = [other for other in steps if other > step]
    chosen: dict[str, object] = {"step": step}
    if larger:
        chosen |= {"finer_step": larger[-1], "finer_gains": blurs[larger[-1]] < blurs[step] * (1 - 1e-9)}
    label, defocus = f"Magnified view {aid.words(step)}", blurs[step] * sight.working_view_stop
    return AidJudgement(label=label, defocus_mm=defocus, chosen=chosen)


def _magnify(case: Case) -> Finding:
    words, written = (
        "precise enough" if case.resolves else "the most precise setting, but not precise enough",
        case.aid.words,
    )
    text = f"magnify {written(case.step)}: {words}"
    if case.finer_step:
        text += f"; {written(case.finer_step)} shows {'it more precisely' if case.finer_gains else 'no more detail'}"
    return Finding(text=text)


def _still(case: Case) -> Finding | None:
    if not case.target.moving:
        return None
    return Finding(text="needs a still subject: for one that moves, set a trap and un-magnify")


def _corner(case: Case) -> Finding | None:
    if recompose_holds(case.sight, case.target.place):
        return None
    return Finding(text="move the magnified area to the subject: swinging back would lose focus")


MAGNIFIED = AidKind(
    tag="magnified",
    label="Magnified view",
    about="A magnified live view at one step.",
    record=MagnifiedView, by=ShownBy.PICTURE,
    inputs=(DISPLAY_PX, STEPS),
    made=_made,
    texts=_texts,
    asked=(
        *ASKED_DISPLAY, positive("step"),
    ),
    request=_request,
    judges=_judge,
    rules=(
        Rule(id="least-magnification", topic=SET, when="always", says=_magnify,
             source="beyond sensor pixels there is no gain"),
        Rule(id="magnify-area", topic=SET, when="swinging back would lose the subject", says=_corner,
             source="swinging the camera moves the plane off the subject"),
        Rule(id="magnify-still", topic=FAIL, when="the subject moves", says=_still,
             source="a magnified picture loses what moves"),
        POINTS_SMALLEST,
        THROUGH_AND_BACK,
    ),
    views=(FinderView(key="magnified", name="Magnified view", seen=display_seen),),
    live=True,
)  # fmt: skip
