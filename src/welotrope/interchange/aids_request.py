"""The JSON request that judges aids, the same on the command line and in the API, and its answer."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from welotrope.core.aids.advice import BY_SCALE, Sensor, Verdict, best_first, judge
from welotrope.core.aids.constants import Eye
from welotrope.core.aids.situation import Detail, Light, Lines, Place, Sight, Target
from welotrope.core.errors import ConflictError
from welotrope.core.kit import body as kit
from welotrope.core.optics.datum import Datum, extension_at
from welotrope.core.optics.depth import sharp_limits
from welotrope.core.optics.thin_lens import check_focal
from welotrope.core.ring.helicoid import check_lead
from welotrope.core.units.distance import check_distance
from welotrope.core.units.stops import check_stop

# Finer or coarser than this is nothing that exists, and would break the arithmetic.
Positive = Annotated[float, Field(ge=1e-4, lt=1e6, allow_inf_nan=False)]
Magnification = Annotated[float, Field(ge=0.05, le=20, allow_inf_nan=False)]
Prism = Annotated[float, Field(ge=0.1, le=45, allow_inf_nan=False)]
Pixels = Annotated[int, Field(ge=100, le=100_000)]


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid", populate_by_name=True)


class MatteAid(_Part):
    """A matte screen."""

    kind: Literal["matte"]
    finder_magnification: Magnification
    screen_stop: Positive = 2.8


class SplitAid(_Part):
    """A split image."""

    kind: Literal["split_image"]
    finder_magnification: Magnification
    deviation_deg: Prism = 6.5


class MicroprismAid(_Part):
    """A microprism."""

    kind: Literal["microprism"]
    finder_magnification: Magnification
    deviation_deg: Prism = 5.0


class RangefinderAid(_Part):
    """A rangefinder patch; ``reads_mm`` is where it coincides for a subject at 2 m."""

    kind: Literal["rangefinder"]
    base_mm: Positive
    finder_magnification: Magnification
    reads_mm: Positive = 2000.0


class MagnifiedAid(_Part):
    """A magnified live view at one step."""

    kind: Literal["magnified"]
    pitch_mm: Positive
    sensor_px: Pixels
    display_px: Pixels
    step: Positive


class PeakingAid(_Part):
    """Peaking at one level, seen at ``step`` over the whole frame."""

    kind: Literal["peaking"]
    pitch_mm: Positive
    sensor_px: Pixels
    display_px: Pixels
    contrast: Annotated[float, Field(ge=1e-3, le=1)] | None = None
    threshold_per_px: Annotated[float, Field(ge=1e-3, le=10)]
    lens_blur_mm: Annotated[float, Field(ge=0, le=1)] | None = None
    step: Positive = 1.0


class ConfirmationAid(_Part):
    """An electronic focus indicator."""

    kind: Literal["confirmation"]
    base_stop: Positive = 5.6


class ScaleAid(_Part):
    """A distance judged by eye and set on the scale."""

    kind: Literal["scale"]


AnyAid = Annotated[
    MatteAid | SplitAid | MicroprismAid | RangefinderAid | MagnifiedAid | PeakingAid | ConfirmationAid | ScaleAid,
    Field(discriminator="kind"),
]


class TargetPart(_Part):
    """What there is to focus on; left out, a hard edge in daylight at the centre."""

    lines: Lines = Lines.BOTH
    detail: Detail = Detail.HARD
    light: Light = Light.BRIGHT
    place: Place = Place.CENTRE
    moving: bool = False


class AidsRequest(_Part):
    """A lens at a setting and the aids to judge: millimetres, ``focus_mm`` null for infinity."""

    focal_mm: float = Field(examples=[50])
    stop: float = Field(examples=[1.4])
    view_stop: float | None = Field(None, description="Stop one focuses through; the taking stop when left out")
    focus_mm: float | None = Field(examples=[2000])
    datum: Datum = Field(Datum.FILM, alias="from", description="Plane the distance starts from")
    blur_mm: float = Field(examples=[0.03])
    lead_mm: float = Field(examples=[10.8])
    diagonal_mm: float = Field(43.3, ge=3, le=500, description="Diagonal of the picture, for a focus indicator")
    target: TargetPart = TargetPart()
    constants: dict[str, float] = Field({}, max_length=40, description="Constants to use in place of the table's")
    aids: list[AnyAid] = Field(min_length=1, max_length=40)


class AidAnswer(BaseModel):
    """An aid judged; figures are null when it is not usable, ``error_subject_mm`` also at infinity."""

    kind: str
    usable: bool
    defocus_mm: float | None
    error_deg: float | None
    error_subject_mm: float | None
    hit_chance: float
    reasons: list[str]


class AidsAnswer(BaseModel):
    """The sharp window in degrees of ring and the aids, best first."""

    window_deg: float
    aids: list[AidAnswer]


def answer(asked: AidsRequest) -> AidsAnswer:
    """Judge the aids of a request.

    Raises
    ------
    WelotropeError
        When a value is out of range, naming its field.
    """
    sight = _sight(asked)
    eye = Eye.of(asked.constants)
    target = Target(**asked.target.model_dump())
    verdicts = [verdict for aid in asked.aids for verdict in _judged(aid, sight, target, eye)]
    return AidsAnswer(window_deg=sight.window_deg, aids=[_answer(verdict) for verdict in best_first(verdicts)])


def _sight(asked: AidsRequest) -> Sight:
    f = check_focal(asked.focal_mm)
    stop = check_stop(asked.stop)
    view = stop if asked.view_stop is None else check_stop(asked.view_stop, field="viewing stop")
    focus = math.inf if asked.focus_mm is None else check_distance(asked.focus_mm, field="focus distance")
    x = extension_at(focus, f, asked.datum)
    per_mm = 360 / check_lead(asked.lead_mm)
    window = sharp_limits(x, f, stop, asked.blur_mm).spread * per_mm
    return Sight(f, x, stop, view, min(stop, view), asked.blur_mm, per_mm, window, diagonal_mm=asked.diagonal_mm)


def _judged(aid: Any, sight: Sight, target: Target, eye: Eye) -> list[Verdict]:
    if isinstance(aid, PeakingAid):
        sight = replace(sight, lens_blur_mm=aid.lens_blur_mm)
        if aid.contrast is not None:
            eye = Eye.of(dict(eye.own) | {"edge_contrast": aid.contrast})
    sensor = Sensor(aid.pitch_mm, aid.sensor_px) if isinstance(aid, MagnifiedAid | PeakingAid) else None
    return judge([_core(aid)], sight, target, sensor, eye)


def _core(aid: Any) -> kit.Aid | str:
    if isinstance(aid, MatteAid):
        return kit.MatteScreen(aid.finder_magnification, aid.screen_stop)
    if isinstance(aid, SplitAid):
        return kit.SplitImage(aid.finder_magnification, _prism(aid.deviation_deg))
    if isinstance(aid, MicroprismAid):
        return kit.Microprism(aid.finder_magnification, _prism(aid.deviation_deg))
    if isinstance(aid, RangefinderAid):
        return kit.RangefinderPatch(aid.base_mm, aid.finder_magnification, aid.reads_mm)
    if isinstance(aid, MagnifiedAid):
        return kit.MagnifiedView(aid.display_px, (aid.step,))
    if isinstance(aid, PeakingAid):
        pixels = round(aid.display_px * aid.step)
        return kit.Peaking(pixels, (kit.PeakingLevel("", aid.threshold_per_px),))
    return kit.Confirmation(aid.base_stop) if isinstance(aid, ConfirmationAid) else BY_SCALE


def _prism(deviation_deg: float) -> float:
    if deviation_deg >= 45:
        raise ConflictError(
            "deviation_deg", f"{deviation_deg:g}°", "no prism in a screen bends so much", "Write 2 to 20"
        )
    return deviation_deg


def _answer(verdict: Verdict) -> AidAnswer:
    return AidAnswer(
        kind=verdict.kind,
        usable=verdict.usable,
        defocus_mm=_finite(verdict.defocus_mm),
        error_deg=_finite(verdict.error_deg),
        error_subject_mm=_finite(verdict.error_subject_mm),
        hit_chance=verdict.hit_chance,
        reasons=[advice.text for advice in verdict.advice],
    )


def _finite(value: float) -> float | None:
    return None if math.isinf(value) else value
