"""A live picture that reaches the computer, where Welotrope measures how sharp it is."""

from __future__ import annotations

from dataclasses import dataclass, field

from welotrope.core import fields
from welotrope.core.hand.evidence import ShownBy
from welotrope.core.inputs import Group, field_spec, number_input, whole_input
from welotrope.core.kit.aids.kind import (
    FAIL,
    SET,
    TURN,
    AidInput,
    AidJudgement,
    AidKind,
    AidRecord,
    AskedAid,
    Case,
    Chosen,
    FinderView,
    Needle,
    needed,
    positive,
)
from welotrope.core.kit.aids.magnified import display_seen
from welotrope.core.kit.aids.models import Eye
from welotrope.core.kit.aids.viewing_optics import Sensor, Target, ViewingOptics
from welotrope.core.rules import Finding, Rule
from welotrope.core.units.text import write_number

LEAST_PX, MOST_PX = 160, 10_000
LIVE_PX = whole_input(
    "live_px", fields.LIVE_PX, "Live on the computer: pixels across", LEAST_PX, MOST_PX, group=Group.AIDS,
    hint="Of the picture that arrives by cable or stick, e.g. 1920; leave it empty if the camera sends none",
)  # fmt: skip
LIVE_STEP = number_input(
    "live_step", fields.LIVE_STEP, "Live on the computer: largest magnification sent", unit="×", low=1, high=60,
    hint="If the camera sends its magnified view too, e.g. 10; empty if it always sends the whole picture",
    group=Group.AIDS,
)  # fmt: skip


@dataclass(frozen=True)
class LivePicture(AidRecord):
    """A picture that the camera sends.

    Parameters
    ----------
    live_px
        Its pixels across.
    live_step
        The largest magnification over the whole picture at which the camera sends it; None for the whole picture only.
    """

    live_px: int = field(metadata=field_spec(LIVE_PX))
    live_step: float | None = field(default=None, metadata=field_spec(LIVE_STEP))


def pixel_mm(pitch_mm: float, sensor_px: int, live_px: float, step: float) -> float:
    """Return how much of the sensor a pixel of the live picture shows, mm.

    Parameters
    ----------
    pitch_mm, sensor_px
        Of the sensor: millimetres from pixel to pixel, and pixels across.
    live_px
        Pixels across the picture that arrives.
    step
        Magnification over the whole picture at which the camera sends it, at least 1.
    """
    return max(pitch_mm * sensor_px / live_px / step, pitch_mm)


def _made(values: Chosen) -> LivePicture | None:
    return LivePicture(values[LIVE_PX.name], values[LIVE_STEP.name]) if values[LIVE_PX.name] else None


def _judge(aid: LivePicture, sight: ViewingOptics, _target: Target, sensor: Sensor | None, eye: Eye) -> AidJudgement:
    pixels = needed(sensor)
    pixel = pixel_mm(pixels.pitch_mm, pixels.width_px, aid.live_px, aid.live_step or 1.0)
    return AidJudgement(defocus_mm=eye["live_blur"] * pixel * sight.working_view_stop)


def _magnified(case: Case) -> Finding:
    if case.resolves:
        return Finding(text="put the spot on the detail that matters, turn through sharp, and come back to the best")
    if case.aid.live_step:
        return Finding(text="the best it can tell is coarser than the window: finish by eye at a larger magnification")
    return Finding(text="magnify the camera’s own view, if it sends that: each pixel then shows less of the sensor")


def _still(case: Case) -> Finding | None:
    return Finding(text="needs a still subject and a camera on a tripod") if case.target.moving else None


LIVE = AidKind(
    tag="live",
    label="Live on the computer",
    about="A live picture that reaches the computer and is measured there.",
    record=LivePicture, by=ShownBy.PICTURE,
    inputs=(LIVE_PX, LIVE_STEP),
    made=_made,
    texts=lambda aid: {LIVE_PX.name: str(aid.live_px), LIVE_STEP.name: write_number(aid.live_step)},
    asked=(
        positive("pitch_mm"), AidInput(name="sensor_px", low=100, high=100_000, whole=True),
        AidInput(name="live_px", low=LEAST_PX, high=MOST_PX, whole=True), positive("live_step", usual=1.0),
    ),
    request=lambda said: AskedAid(
        aid=LivePicture(said["live_px"], said["live_step"]), sensor=Sensor(said["pitch_mm"], said["sensor_px"])
    ),
    judges=_judge,
    rules=(
        Rule(id="live-best", topic=SET, when="always", says=_magnified,
             source="sharpness is measured against the best of a sweep"),
        Rule(id="live-slowly", topic=TURN, when="always",
             says=lambda _case: Finding(text="turn slowly: some ten pictures within the window find its middle"),
             source="the middle of a sweep is fitted through its frames"),
        Rule(id="live-still", topic=FAIL, when="the subject moves", says=_still,
             source="a sweep compares the same detail from frame to frame"),
    ),
    views=(FinderView(key="live", name="Live, with its needle", seen=lambda aids: display_seen(aids, Needle())),),
    live=True,
)  # fmt: skip
