"""/plan/night: stars."""

from __future__ import annotations

from dataclasses import dataclass, field

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.errors import Field, WelotropeError
from welotrope.core.inputs import check_limits, field_spec, number_input
from welotrope.core.kit.camera_kind import ScaleShown
from welotrope.core.plan.night_plan import NightPlan, NightStep, night_steps, plan_night
from welotrope.core.ring.survey import distance_cell
from welotrope.core.units.distance import Unit
from welotrope.core.units.exposure import format_stop
from welotrope.store.queries.kit import StoredSetup
from welotrope.web.components.ring import RingView, ring_view
from welotrope.web.components.setting import Put, put
from welotrope.web.forms import RecordForm, record_form
from welotrope.web.request.context import CurrentContext
from welotrope.web.request.query_form import read_asked
from welotrope.web.rooms.plan.inputs import exponent_asked, stop_asked


@dataclass(frozen=True, kw_only=True)
class NightAsked:
    """A night: stop, where in the sky (degrees), a foreground (mm), and the film's exponent."""

    stop: float = field(metadata=field_spec(stop_asked(2.8)))
    declination_deg: float = field(
        metadata=field_spec(
            number_input(
                "declination",
                Field("declination", "declination"),
                "Declination of the stars",
                unit="°",
                low=-90,
                high=90,
                empty=0.0,
                usual="0",
                hint="0 at the celestial equator, where stars move fastest; 90 at the pole",
            )
        )
    )
    foreground_mm: float | None = field(
        metadata=field_spec(
            distance_cell(
                "foreground",
                Field("foreground", "foreground"),
                "Foreground distance",
                optional=True,
                example="4 m",
                example_ft="12 ft",
            )
        )
    )
    exponent: float | None = field(
        metadata=field_spec(exponent_asked("from the film’s data sheet; leave empty for a sensor"))
    )  # fmt: skip

    def __post_init__(self) -> None:
        check_limits(self)


NightForm = record_form(NightAsked)


@dataclass(frozen=True, kw_only=True)
class NightPage:
    """A night: where infinity is, what a little of the ring costs, how long to expose, step by step.

    ``sights`` tells whether there is a ring on which infinity can be sighted and kept.
    """

    form: RecordForm
    errors: dict[str, str]
    plan: NightPlan | None
    put: Put | None
    ring: RingView | None
    steps: tuple[NightStep, ...]
    sights: bool
    unit: Unit


def night_page(
    stored: StoredSetup, form: RecordForm, asked: NightAsked | None, errors: dict[str, str], unit: Unit
) -> NightPage:
    """Compute the page."""
    setup, plan = stored.setup, None
    exponent = asked.exponent if asked and setup.body.is_film else None
    if asked is not None:
        try:
            plan = plan_night(
                setup,
                asked.stop,
                declination_deg=asked.declination_deg,
                foreground_mm=asked.foreground_mm,
                exponent=exponent,
            )
        except WelotropeError as error:
            errors = {"foreground" if error.key == "foreground" else "stop": error.sentence}
    setting = plan.setting if plan else None
    return NightPage(
        form=form, errors=errors, plan=plan, put=put(setup, setting, unit) if setting else None,
        ring=ring_view(setup, setting.angle_deg, setting.stop, [], unit) if setting else None,
        steps=night_steps(plan, setup.blur_mm, film=setup.body.is_film, corrected=bool(exponent)) if plan else (),
        sights=setup.body.kind.scale is ScaleShown.RING, unit=unit,
    )  # fmt: skip


router = APIRouter()


@router.get("/plan/night")
def night(context: CurrentContext) -> Response:
    """Plan a night."""
    stored = context.selected_setup()
    form, asked, errors = read_asked(NightForm, context, {"stop": format_stop(stored.setup.lens.widest)})
    page = night_page(stored, form, asked, errors, context.preferences.unit)
    return context.page("plan/night/page.html", page, status=422 if page.errors else 200)
