"""The JSON request that judges aids, the same on the command line and in the API, and its answer."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import TYPE_CHECKING, Annotated, Any, Literal, Union

from pydantic import BaseModel, ConfigDict, Field, create_model

from welotrope.core.aids.advice import AidVerdict, best_first, judge
from welotrope.core.json_values import JsonObject
from welotrope.core.kit.aids.kind import AidKind
from welotrope.core.kit.aids.models import Eye
from welotrope.core.kit.aids.registry import every_kind
from welotrope.core.kit.aids.viewing_optics import Detail, FramePlace, LightLevel, Lines, Target, ViewingOptics
from welotrope.core.optics.thin_lens import Datum, check_focal, extension_at
from welotrope.core.optics.turning import sharp_turning
from welotrope.core.ring.helicoid import check_lead
from welotrope.core.units.distance import check_distance
from welotrope.core.units.exposure import check_stop


class _AidsRequestPart(BaseModel):
    model_config = ConfigDict(extra="forbid", populate_by_name=True)


def _aid_part(kind: AidKind) -> type[_AidsRequestPart]:
    """Return the part of a request that describes an aid of a kind."""
    fields: JsonObject = {"kind": (Literal[kind.tag], ...)}
    for asked in kind.asked:
        whole: Any = int if asked.whole else float
        limits: JsonObject = {"lt" if asked.below else "le": asked.high}
        number = Annotated[whole, Field(ge=asked.low, **limits, **({} if asked.whole else {"allow_inf_nan": False}))]
        fields[asked.name] = (number | None if asked.usual is None else number, asked.usual)
    name = kind.tag.title().replace("_", "") + "Aid"
    return create_model(name, __base__=_AidsRequestPart, __doc__=kind.about, **fields)


_KIND_OF = {_aid_part(kind): kind for kind in every_kind()}
if TYPE_CHECKING:
    AnyAid = _AidsRequestPart
else:
    AnyAid = Annotated[Union[tuple(_KIND_OF)], Field(discriminator="kind")]  # noqa: UP007


class TargetPart(_AidsRequestPart):
    """What there is to focus on; left out, a hard edge in daylight at the centre."""

    lines: Lines = Lines.BOTH
    detail: Detail = Detail.HARD
    light: LightLevel = LightLevel.BRIGHT
    place: FramePlace = FramePlace.CENTRE
    moving: bool = False


class AidsRequest(_AidsRequestPart):
    """A lens at a setting and the aids to judge: millimetres, ``focus_mm`` null for infinity."""

    focal_mm: float = Field(examples=[50])
    stop: float = Field(examples=[1.4])
    view_stop: float | None = Field(None, description="Stop one focuses through; the taking stop when left out")
    focus_mm: float | None = Field(examples=[2000])
    datum: Datum = Field(Datum.FILM, alias="from", description="Plane the distance starts from")
    blur_mm: float = Field(examples=[0.03])
    lead_mm: float = Field(examples=[10.8])
    diagonal_mm: float = Field(43.3, ge=3, le=500, description="Diagonal of the picture, for focus confirmation")
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


def _sight(asked: AidsRequest) -> ViewingOptics:
    f = check_focal(asked.focal_mm)
    stop = check_stop(asked.stop)
    view = stop if asked.view_stop is None else check_stop(asked.view_stop, field="viewing stop")
    focus = math.inf if asked.focus_mm is None else check_distance(asked.focus_mm, field="focus distance")
    x = extension_at(focus, f, asked.datum)
    per_mm = 360 / check_lead(asked.lead_mm)
    window = sharp_turning(x, f, stop, asked.blur_mm).width * per_mm
    return ViewingOptics(
        focal_mm=f, focus_x=x, stop=stop, view_stop=view, widest=min(stop, view), blur_mm=asked.blur_mm,
        degrees_per_mm=per_mm, window_deg=window, diagonal_mm=asked.diagonal_mm,
    )  # fmt: skip


def _judged(part: _AidsRequestPart, sight: ViewingOptics, target: Target, eye: Eye) -> list[AidVerdict]:
    request = _KIND_OF[type(part)].request(part.model_dump(exclude={"kind"}))
    if request.lens_blur_mm is not None:
        sight = replace(sight, lens_blur_mm=request.lens_blur_mm)
    if request.constants:
        eye = Eye.of({**dict(eye.own), **request.constants})
    return judge([request.aid], sight, target=target, sensor=request.sensor, eye=eye)


def _answer(verdict: AidVerdict) -> AidAnswer:
    return AidAnswer(
        kind=verdict.kind, usable=verdict.usable, defocus_mm=_finite(verdict.defocus_mm),
        error_deg=_finite(verdict.error_deg), error_subject_mm=_finite(verdict.error_subject_mm),
        hit_chance=verdict.hit_chance, reasons=[advice.text for advice in verdict.advice],
    )  # fmt: skip


def _finite(value: float) -> float | None:
    return None if math.isinf(value) else value
