"""A live picture enlarged in steps."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from welotrope.core import fields
from welotrope.core.errors import OutOfRangeError
from welotrope.core.hand.shot import ShownBy
from welotrope.core.inputs import Input, asks
from welotrope.core.kit.aids import models
from welotrope.core.kit.aids.constants import Eye
from welotrope.core.kit.aids.display import ASKED_DISPLAY, DISPLAY_PX, USUAL_PX, display_seen
from welotrope.core.kit.aids.kind import (
    FAIL,
    SET,
    AidKind,
    AidRecord,
    AskedAid,
    Case,
    Judged,
    eye_factor,
    needed,
    positive,
)
from welotrope.core.kit.aids.shared import POINTS_SMALLEST, THROUGH_AND_BACK
from welotrope.core.kit.aids.sight import FramePlace, Sensor, Sight, Target
from welotrope.core.kit.aids.view import FinderView
from welotrope.core.rules import Rule, Said
from welotrope.core.units.numbers import number

MOST_STEPS, MOST_MAGNIFIED = 12, 60.0


def _read_steps(text: str) -> tuple[float, ...]:
    parts = text.replace("×", " ").replace(",", " ").replace(";", " ").split()[:MOST_STEPS]
    return tuple(sorted({number(part, "magnification step") for part in parts}))


def _check_steps(steps: tuple[float, ...]) -> None:
    if not 1 <= len(steps) <= MOST_STEPS:
        raise OutOfRangeError("number of magnification steps", len(steps), "out of range", f"Write 1 to {MOST_STEPS}")
    for step in steps:
        if not 1 <= step <= MOST_MAGNIFIED:
            raise OutOfRangeError(fields.MAGNIFY_STEP, f"{step:g}", "out of range", f"Write 1 to {MOST_MAGNIFIED:g}")


STEPS = Input(
    name="steps", field=fields.MAGNIFY_STEP, label="Magnification steps", hint="Over the whole picture, e.g. 6 12",
    read=lambda text, _typed: _read_steps(text), write=lambda steps: " ".join(f"{step:g}" for step in steps),
    valid=_check_steps, optional=True, empty=(), group="aids",
)  # fmt: skip


@dataclass(frozen=True)
class MagnifiedView(AidRecord):
    """A live picture enlarged in steps.

    Parameters
    ----------
    display_px
        Picture width on the display, in display pixels, when the whole frame is shown.
    steps
        Magnifications over the whole-frame view, such as (6, 12); 1 to 60.
    """

    display_px: int = field(metadata=asks(DISPLAY_PX))
    steps: tuple[float, ...] = field(metadata=asks(STEPS))


def _made(values: Mapping[str, Any]) -> MagnifiedView | None:
    return MagnifiedView(values[DISPLAY_PX.name] or USUAL_PX, values[STEPS.name]) if values[STEPS.name] else None


def _request(said: Mapping[str, Any]) -> AskedAid:
    sensor = Sensor(said["pitch_mm"], said["sensor_px"])
    return AskedAid(aid=MagnifiedView(said["display_px"], (said["step"],)), sensor=sensor)


def _judge(aid: MagnifiedView, sight: Sight, target: Target, sensor: Sensor | None, eye: Eye) -> Judged:
    pixels = needed(sensor)
    factor = eye_factor(target, eye, live=True)
    steps = sorted(aid.steps)
    blurs = {
        step: models.magnified_blur(pixels.pitch_mm, pixels.width_px, aid.display_px, step, eye) * factor
        for step in steps
    }
    finest = min(blurs.values())
    # An aid resolves the standard when the blur it just shows is no larger than the blur allowed there.
    step = next(
        (step for step in steps if blurs[step] <= sight.view_blur_mm),
        next(step for step in steps if blurs[step] <= finest * (1 + 1e-9)),
    )
    larger = [other for other in steps if other > step]
    chosen: dict[str, Any] = {"step": step}
    if larger:
        chosen |= {"finer_step": larger[-1], "finer_gains": blurs[larger[-1]] < blurs[step] * (1 - 1e-9)}
    return Judged(label=f"Magnified view {step:g}×", defocus_mm=blurs[step] * sight.working_view_stop, chosen=chosen)


def _magnify(case: Case) -> Said:
    words = "resolves it" if case.resolves else "the finest there is, not fine enough"
    text = f"magnify {case.step:g}×: {words}"
    if case.finer_step:
        text += f"; {case.finer_step:g}× shows {'it finer still' if case.finer_gains else 'nothing more'}"
    return Said(text=text)


def _still(case: Case) -> Said | None:
    if not case.target.moving:
        return None
    return Said(text="needs a still subject: for one that moves, set a trap and un-magnify")


def _corner(case: Case) -> Said | None:
    if case.target.place is FramePlace.CENTRE:
        return None
    return Said(text="move the magnified area to the subject rather than focus and recompose")


MAGNIFIED = AidKind(
    tag="magnified",
    label="Magnified view",
    about="A magnified live view at one step.",
    record=MagnifiedView, by=ShownBy.PICTURE,
    inputs=(DISPLAY_PX, STEPS),
    made=_made,
    texts=lambda aid: {DISPLAY_PX.name: str(aid.display_px), STEPS.name: STEPS.write(aid.steps)},
    asked=(
        *ASKED_DISPLAY, positive("step"),
    ),
    request=_request,
    judges=_judge,
    rules=(
        Rule(id="least-magnification", topic=SET, when="always", says=_magnify,
             source="past sensor pixels nothing is gained"),
        Rule(id="magnify-area", topic=SET, when="the subject is not in the middle", says=_corner,
             source="swinging the camera moves the plane off the subject"),
        Rule(id="magnify-still", topic=FAIL, when="the subject moves", says=_still,
             source="a magnified picture loses what moves"),
        POINTS_SMALLEST,
        THROUGH_AND_BACK,
    ),
    views=(FinderView(key="magnified", name="Live view, magnified", seen=display_seen),),
    live=True,
)  # fmt: skip
