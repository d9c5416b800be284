"""/plan/sitter: someone close."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import StrEnum

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.errors import Field, WelotropeError
from welotrope.core.inputs import check_limits, choice_input, field_spec, number_input
from welotrope.core.kit.aids.models import Eye
from welotrope.core.plan.sitter import SitterPlan, plan_sitter, together
from welotrope.core.ring.survey import distance_cell
from welotrope.core.units.distance import Unit, write_distance
from welotrope.core.units.exposure import format_stop, snap_stop
from welotrope.store.queries.kit import StoredSetup
from welotrope.web.components.ring import RingView, ring_view
from welotrope.web.components.setting import Put, put
from welotrope.web.forms import RecordForm, record_form
from welotrope.web.request.context import CurrentContext
from welotrope.web.request.query_form import read_asked
from welotrope.web.rooms.plan.inputs import stop_asked


class Stance(StrEnum):
    """Movement between focusing and release."""

    BOTH = "both standing"
    SEATED = "one seated"
    TRIPOD = "tripod, subject seated"


class Where(StrEnum):
    """Where in the picture the eye goes."""

    MIDDLE = "in the middle"
    THIRD = "on the third"
    EDGE = "near the edge"


_WHO = {
    Stance.BOTH: ("body_sway", "body_sway"), Stance.SEATED: ("body_sway", "kneeling_sway"),
    Stance.TRIPOD: ("kneeling_sway",),
}  # fmt: skip
_OFFSETS = {Where.MIDDLE: 0.0, Where.THIRD: 1 / 6, Where.EDGE: 0.4}


@dataclass(frozen=True, kw_only=True)
class SitterAsked:
    """A sitter: how far the eye is (mm), the stop, who sways, where the head goes."""

    distance_mm: float = field(
        metadata=field_spec(
            distance_cell(
                "distance",
                Field("distance", "distance"),
                "Distance to the eye",
                usual="1.5 m",
                half_empty="Write a distance, such as 1.5 m",
            )
        )
    )
    stop: float = field(metadata=field_spec(stop_asked(2.8)))
    stance: Stance = field(
        metadata=field_spec(choice_input("stance", "Movement between focusing and release", Stance, Stance.BOTH))
    )
    sway_mm: float | None = field(
        metadata=field_spec(
            number_input(
                "sway",
                Field("sway", "sway"),
                "Or your own value",
                unit="mm",
                low=0.1,
                high=200,
                hint="change of distance between focusing and release",
            )
        )
    )
    place: Where = field(metadata=field_spec(choice_input("place", "Position of the eye", Where, Where.THIRD)))

    def __post_init__(self) -> None:
        check_limits(self)

    @property
    def offset_share(self) -> float:
        """How far from the middle the eye goes, as a share of the width."""
        return _OFFSETS[self.place]

    def sway(self, eye: Eye) -> float:
        """Sway of both together, mm, standard deviation."""
        if self.sway_mm is not None:
            return self.sway_mm
        return together(*(eye[id] for id in _WHO[self.stance]))


SitterForm = record_form(SitterAsked)


@dataclass(frozen=True, kw_only=True)
class SitterPage:
    """A sitter: the window against sway, what fits, what turning does."""

    form: RecordForm
    errors: dict[str, str]
    plan: SitterPlan | None
    put: Put | None
    ring: RingView | None
    unit: Unit


def sitter_page(
    stored: StoredSetup, form: RecordForm, asked: SitterAsked | None, errors: dict[str, str], eye: Eye, unit: Unit
) -> SitterPage:
    """Compute the page."""
    plan = None
    if asked is not None:
        try:
            plan = plan_sitter(stored.setup, asked.distance_mm, asked.stop, asked.sway(eye), asked.offset_share)
        except WelotropeError as error:
            errors = {"stop" if error.key == "stop" else "distance": error.sentence}
    setting = plan.setting if plan else None
    return SitterPage(
        form=form, errors=errors, plan=plan, put=put(stored.setup, setting, unit) if setting else None,
        ring=ring_view(stored.setup, setting.angle_deg, setting.stop, [], unit) if setting else None, unit=unit,
    )  # fmt: skip


router = APIRouter()
_HEAD_AND_SHOULDERS = 28  # focal lengths away


@router.get("/plan/sitter")
def sitter(context: CurrentContext) -> Response:
    """Plan a portrait."""
    lens = context.selected_setup().setup.lens
    near = max(lens.closest_mm, round(_HEAD_AND_SHOULDERS * lens.focal_mm, -2))
    usual = {"stop": format_stop(snap_stop(2.8, lens.stops)), "distance": write_distance(near)}
    form, asked, errors = read_asked(SitterForm, context, usual)
    page = sitter_page(context.selected_setup(), form, asked, errors, context.personal().eye, context.preferences.unit)
    return context.page("plan/sitter/page.html", page, status=422 if page.errors else 200)
