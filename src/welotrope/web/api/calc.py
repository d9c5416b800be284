"""The stand-alone calculations as JSON, under ``/api/calc``.

Each takes its values from a JSON body (POST), the flat ones from the query too (GET); distances are text
as people write them or numbers in mm. Infinity is null in the answer.
"""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Query
from pydantic import BaseModel, ConfigDict, Field

from welotrope.core.errors import WelotropeError
from welotrope.core.optics.datum import Datum
from welotrope.core.plan import calculations
from welotrope.core.ring.adapter_error import adapter_effect
from welotrope.core.units.distance import check_distance, parse_distance
from welotrope.interchange.aids_request import AidsAnswer, AidsRequest, answer
from welotrope.interchange.calc_json import as_json

router = APIRouter(prefix="/api/calc", tags=["Calculations"])

Distance = Annotated[
    float | Annotated[str, Field(max_length=60)],
    Field(description="Millimetres, or text such as 2.4m, 240cm, 7'6\", inf", examples=["2500mm"]),
]
FromDatum = Annotated[
    Datum, Field(alias="from", description="Plane the distances start from: film plane or front principal plane")
]


class Request(BaseModel):
    """What they all share."""

    model_config = ConfigDict(extra="forbid", populate_by_name=True)

    datum: FromDatum = Datum.FILM


class DepthRequest(Request):
    """Focal length (mm), stop, blur circle (mm) and focus distance."""

    focal_mm: float = Field(examples=[40])
    stop: float = Field(examples=[11])
    blur_mm: float = Field(examples=[0.028])
    focus: Distance


class ZoneRequest(Request):
    """Focal length (mm), blur circle (mm), nearest and farthest subject."""

    focal_mm: float = Field(examples=[35])
    blur_mm: float = Field(examples=[0.03])
    near: Distance
    far: Distance


class RingRequest(Request):
    """Focal length (mm), helicoid lead (mm a turn), stop, blur circle (mm), focus, ring diameter (mm) if known."""

    focal_mm: float = Field(examples=[50])
    lead_mm: float = Field(examples=[10.8])
    stop: float = Field(examples=[2])
    blur_mm: float = Field(examples=[0.03])
    focus: Distance
    diameter_mm: float | None = None


class AdapterRequest(Request):
    """Focal length (mm) and thickness error (mm, positive too thick); lead (mm a turn) and diameter (mm) if known."""

    focal_mm: float = Field(examples=[50])
    error_mm: float = Field(examples=[0.1])
    lead_mm: float | None = None
    diameter_mm: float | None = None


class Reading(BaseModel):
    """A ring angle in degrees and the distance there."""

    model_config = ConfigDict(extra="forbid")

    angle_deg: float = Field(examples=[48.6])
    distance: Distance


class ThrowRequest(Request):
    """Focal length (mm), 2 to 60 readings in any order, and the reading error (degrees) if known."""

    focal_mm: float = Field(examples=[50])
    readings: Annotated[list[Reading], Field(max_length=60)]
    error_deg: float | None = None
    distance_error: float | None = Field(None, description="Share of the distance; else the larger of 1 % and 5 mm")


class EngravingRequest(Request):
    """Focal length (mm), the marks read, two of what lies under far mark, near mark and index; blur to compare (mm)."""

    focal_mm: float = Field(examples=[28])
    stop: float = Field(examples=[16])
    far: Distance | None = None
    near: Distance | None = None
    index: Distance | None = None
    blur_mm: float | None = None


class AdapterAnswer(BaseModel):
    """Whether and where infinity is in focus; ``farthest_mm`` null is infinity, the others null when not reached."""

    reaches_infinity: bool
    farthest_mm: float | None
    infinity_extension_mm: float | None
    infinity_deg: float | None
    infinity_mm: float | None


class DepthAnswer(BaseModel):
    """Limits from the plane asked for; null is infinity; spread is extension between the limits."""

    focus_mm: float | None
    near_mm: float | None
    far_mm: float | None
    hyperfocal_mm: float | None
    spread_mm: float


class ZoneAnswer(BaseModel):
    """The setting; null limits are infinity, or not reached when the marked stop is null too."""

    focus_mm: float | None
    spread_mm: float
    stop_exact: float
    stop_marked: float | None
    achieved_near_mm: float | None
    achieved_far_mm: float | None
    balanced_stop: float


class RingAnswer(BaseModel):
    """Ring angle from infinity and window width, in degrees and, with a diameter, in mm of ring surface."""

    angle_deg: float
    window_deg: float
    window_mm: float | None


def millimetres(value: float | str, field: str) -> float:
    """Read a distance given as a number of mm or as text; a bare number as text is mm too."""
    try:
        return check_distance(float(value), field=field)
    except WelotropeError:
        raise
    except ValueError:
        return parse_distance(str(value), field=field)


class OutlierAnswer(BaseModel):
    """A reading that does not belong; a null distance is infinity."""

    angle_deg: float
    distance_mm: float | None
    off_deg: float


class ThrowAnswer(BaseModel):
    """The ring the readings show; the lead's upper end is null when nothing bounds it, h when nothing shows it."""

    lead_mm: float
    lead_low_mm: float
    lead_high_mm: float | None
    infinity_deg: float
    infinity_half_deg: float | None
    rms_deg: float
    model: str
    h_mm: float | None
    h_half_mm: float | None
    outliers: list[OutlierAnswer]
    read_mm: list[float]


class EngravingAnswer(BaseModel):
    """Implied and standard blur, and how many stops the engraving is more lenient."""

    implied_blur_mm: float
    standard_blur_mm: float
    stops_from_standard: float


def _depth(asked: DepthRequest) -> dict[str, Any]:
    focus = millimetres(asked.focus, "focus")
    return as_json(calculations.depth(asked.focal_mm, asked.stop, asked.blur_mm, focus, asked.datum))


def _zone(asked: ZoneRequest) -> dict[str, Any]:
    near, far = millimetres(asked.near, "near"), millimetres(asked.far, "far")
    return as_json(calculations.zone(asked.focal_mm, near, far, asked.blur_mm, asked.datum))


def _ring(asked: RingRequest) -> dict[str, Any]:
    focus = millimetres(asked.focus, "focus")
    return as_json(
        calculations.ring(
            asked.focal_mm, asked.lead_mm, asked.stop, asked.blur_mm, focus, asked.datum, asked.diameter_mm
        )
    )


@router.get("/depth", response_model=DepthAnswer)
def get_depth(asked: Annotated[DepthRequest, Query()]) -> dict[str, Any]:
    """Depth of field and hyperfocal distance."""
    return _depth(asked)


@router.post("/depth", response_model=DepthAnswer)
def post_depth(asked: DepthRequest) -> dict[str, Any]:
    """Depth of field and hyperfocal distance."""
    return _depth(asked)


@router.get("/zone", response_model=ZoneAnswer)
def get_zone(asked: Annotated[ZoneRequest, Query()]) -> dict[str, Any]:
    """Where to focus and which stop for a zone."""
    return _zone(asked)


@router.post("/zone", response_model=ZoneAnswer)
def post_zone(asked: ZoneRequest) -> dict[str, Any]:
    """Where to focus and which stop for a zone."""
    return _zone(asked)


@router.get("/ring", response_model=RingAnswer)
def get_ring(asked: Annotated[RingRequest, Query()]) -> dict[str, Any]:
    """Ring angle and sharp window."""
    return _ring(asked)


@router.post("/ring", response_model=RingAnswer)
def post_ring(asked: RingRequest) -> dict[str, Any]:
    """Ring angle and sharp window."""
    return _ring(asked)


def _adapter(asked: AdapterRequest) -> dict[str, Any]:
    return as_json(adapter_effect(asked.focal_mm, asked.error_mm, asked.datum, asked.lead_mm, asked.diameter_mm))


@router.get("/adapter", response_model=AdapterAnswer)
def get_adapter(asked: Annotated[AdapterRequest, Query()]) -> dict[str, Any]:
    """Where infinity falls with an adapter that is too thick or too thin."""
    return _adapter(asked)


@router.post("/adapter", response_model=AdapterAnswer)
def post_adapter(asked: AdapterRequest) -> dict[str, Any]:
    """Where infinity falls with an adapter that is too thick or too thin."""
    return _adapter(asked)


@router.post("/throw", response_model=ThrowAnswer)
def post_throw(asked: ThrowRequest) -> dict[str, Any]:
    """Lead of a ring from readings, infinity, scatter and what does not belong."""
    readings = [(reading.angle_deg, millimetres(reading.distance, "distance")) for reading in asked.readings]
    return as_json(calculations.throw(asked.focal_mm, readings, asked.datum, asked.error_deg, asked.distance_error))


@router.post("/engraving", response_model=EngravingAnswer)
def post_engraving(asked: EngravingRequest) -> dict[str, Any]:
    """Blur circle that depth marks imply."""
    far, near, index = (
        None if value is None else millimetres(value, name)
        for value, name in ((asked.far, "far mark"), (asked.near, "near mark"), (asked.index, "index"))
    )
    return as_json(calculations.engraving(asked.focal_mm, asked.stop, asked.datum, far, near, index, asked.blur_mm))


@router.post("/aids", response_model=AidsAnswer)
def post_aids(asked: AidsRequest) -> AidsAnswer:
    """Aids judged for a setting, best first, with how to set each."""
    return answer(asked)
