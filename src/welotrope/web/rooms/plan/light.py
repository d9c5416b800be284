"""/plan/light: whether the light affords the stop."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.errors import Field, OutOfRangeError, WelotropeError
from welotrope.core.exposure.light import BRIGHTEST_FIRST, BY_ID, CONDITIONS, agreed_light, check_iso, ev_of_reading
from welotrope.core.exposure.motion import HOLDING_BY_ID, HOLDINGS, MOVERS
from welotrope.core.exposure.third import Bounds, FixedTwo, ThirdValue, third_in, third_rows
from welotrope.core.inputs import (
    CompositeField,
    FormInput,
    Group,
    Input,
    Reader,
    check_limits,
    field_spec,
    number_input,
)
from welotrope.core.kit.body import longest_words, shutter_of, shutter_words
from welotrope.core.kit.setup import Setup
from welotrope.core.plan.light_plan import THIRD_STOP, USUAL_MOST_ISO, Circumstances, LightPlan, plan_light
from welotrope.core.ring.survey import distance_cell
from welotrope.core.units.distance import Unit
from welotrope.core.units.exposure import format_shutter, format_stop, parse_shutter, parse_stop, shutter_text
from welotrope.core.units.text import number
from welotrope.store.queries.kit import StoredSetup
from welotrope.web.components.ring import RingView, ring_view
from welotrope.web.components.setting import Put, put
from welotrope.web.forms import RecordForm, record_form
from welotrope.web.request.context import CurrentContext
from welotrope.web.request.query_form import read_asked
from welotrope.web.rooms.plan.inputs import chosen_asked, exponent_asked, path_asked, speed_asked

LIGHT = chosen_asked(
    "light",
    "The light",
    (("", "as metered"), *((one.id, one.name) for one in CONDITIONS)),
    "overcast",
    group=Group.LIGHT,
)
METER_SHUTTER = Input(
    name="meter_shutter", field=Field("meter_shutter", "metered shutter"), label="Or metered: shutter speed",
    optional=True, example="1/125",
    read=lambda text, _typed: parse_shutter(text, field="metered shutter"), group=Group.METER,
)  # fmt: skip
METER_STOP = Input(
    name="meter_stop", field=Field("meter_stop", "metered stop"), label="at stop", optional=True, example="f/8",
    read=lambda text, _typed: parse_stop(text, field="metered stop"), group=Group.METER,
)  # fmt: skip
METER_ISO = number_input("meter_iso", Field("meter_iso", "metered ISO"), "at ISO", group=Group.METER)


def _take_light(reader: Reader, typed: FormInput) -> float:
    """Return the exposure value: of the reading where one was written, which the named light must agree with."""
    named = BY_ID.get(LIGHT.take(reader, typed))
    parts = (METER_SHUTTER, METER_STOP, METER_ISO)
    if named is not None and not any(typed.text(one.name) for one in parts):
        return named.ev
    shutter, stop, iso = (one.must(reader, typed) for one in parts)
    if reader.errors:
        return 0.0

    def read() -> float:
        ev = ev_of_reading(shutter, stop, iso)
        return ev if named is None else agreed_light(named, ev)

    return reader.take(METER_SHUTTER.name, read, 0.0)


def _stop_text(stop: float | None) -> str:
    return "" if stop is None else format_stop(stop)


HELD = chosen_asked("held", "Camera support", tuple((one.id, one.name) for one in HOLDINGS), "hand", group=Group.HELD)


@dataclass(frozen=True, kw_only=True)
class LightAsked:
    """The zone, the light, what moves and how the camera is held; distances in mm, speed m/s, angle in degrees."""

    near_mm: float = field(
        metadata=field_spec(
            distance_cell(
                "near",
                Field("near", "near"),
                "Sharp from",
                usual="2 m",
                half_empty="Write a distance, such as 2 m",
                group=Group.ZONE,
            )
        )
    )
    far_mm: float = field(
        metadata=field_spec(
            distance_cell(
                "far",
                Field("far", "far"),
                "to",
                optional=True,
                empty=math.inf,
                usual="5 m",
                hint="if empty: ∞",
                group=Group.ZONE,
            )
        )
    )
    ev: float = field(
        metadata=field_spec(
            CompositeField(inputs=(LIGHT, METER_SHUTTER, METER_STOP, METER_ISO), made=_take_light, texts=lambda _ev: {})
        )
    )
    iso: float = field(
        metadata=field_spec(
            Input(
                name="iso",
                field=Field("iso", "ISO"),
                label="ISO",
                mode="numeric",
                usual="100",
                empty=100.0,
                group=Group.ISO,
                hint="of the film, or the camera’s lowest",
                read=lambda text, _typed: check_iso(number(text, "ISO")),
            )
        )
    )
    most_iso: float | None = field(
        metadata=field_spec(
            Input(
                name="most_iso",
                field=Field("most_iso", "highest ISO"),
                label="Highest acceptable ISO",
                mode="numeric",
                optional=True,
                group=Group.ISO,
                hint="leave empty for film",
                read=lambda text, _typed: check_iso(number(text, "highest ISO")),
            )
        )
    )
    filter_stops: float = field(
        metadata=field_spec(
            number_input(
                "filter",
                Field("filter", "filter"),
                "Filter factor",
                unit="stops",
                low=0,
                high=20,
                empty=0.0,
                group=Group.ISO,
            )
        )
    )
    exponent: float | None = field(
        metadata=field_spec(
            exponent_asked("from the film’s data sheet, for exposures longer than 1 s", group=Group.ISO)
        )
    )
    fixed_stop: float | None = field(
        metadata=field_spec(
            Input(
                name="fixed_stop", field=Field("fixed_stop", "fixed stop"), label="Stop", optional=True,
                example="f/11", read=lambda text, _typed: parse_stop(text, field="fixed stop"), write=_stop_text,
                group=Group.FIXED,
            )
        )
    )  # fmt: skip
    fixed_shutter: float | None = field(
        metadata=field_spec(
            Input(
                name="fixed_shutter", field=Field("fixed_shutter", "fixed shutter time"), label="Shutter speed",
                optional=True, example="1/250", group=Group.FIXED,
                read=lambda text, _typed: parse_shutter(text, field="fixed shutter time"), write=shutter_text,
            )
        )
    )  # fmt: skip
    fixed_iso: float | None = field(
        metadata=field_spec(
            Input(
                name="fixed_iso", field=Field("fixed_iso", "fixed ISO"), label="ISO", mode="numeric", optional=True,
                example="400", read=lambda text, _typed: check_iso(number(text, "fixed ISO")), group=Group.FIXED,
            )
        )
    )  # fmt: skip
    speed: float = field(metadata=field_spec(speed_asked(MOVERS, "talking", "Subject movement", group=Group.MOVES)))
    angle_deg: float = field(metadata=field_spec(path_asked(90.0, group=Group.MOVES)))
    held: str = field(metadata=field_spec(HELD))

    def __post_init__(self) -> None:
        check_limits(self)
        if self.most_iso is not None and self.most_iso < self.iso:
            raise OutOfRangeError(
                Field("most_iso", "highest ISO"), f"{self.most_iso:g}", f"that is below ISO {self.iso:g}",
                "Write a higher one, or leave it empty",
            )  # fmt: skip

    def fixed(self, *, film: bool) -> FixedTwo | None:
        """Return what is fixed of the exposure, None where nothing is; film fixes its ISO. Errors as ``FixedTwo``."""
        if self.fixed_stop is None and self.fixed_shutter is None and self.fixed_iso is None:
            return None
        iso = self.iso if film and self.fixed_iso is None and None in (self.fixed_stop, self.fixed_shutter) else None
        return FixedTwo(
            stop=self.fixed_stop, shutter_s=self.fixed_shutter, iso=self.fixed_iso or iso,
            filter_stops=self.filter_stops,
        )  # fmt: skip

    @property
    def highest_iso(self) -> float:
        """Highest ISO one would take."""
        return self.most_iso or max(self.iso, USUAL_MOST_ISO)

    def circumstances(self, steady: float) -> Circumstances:
        """Return what is asked of the light; ``steady`` is how steady the own hand is, times."""
        return Circumstances(
            ev=self.ev, iso=self.iso, most_iso=self.highest_iso,
            holding=HOLDING_BY_ID[self.held], filter_stops=self.filter_stops, speed=self.speed,
            angle_deg=self.angle_deg,
            steady=steady, exponent=self.exponent,
        )  # fmt: skip


LightForm = record_form(LightAsked)


@dataclass(frozen=True, kw_only=True)
class Third:
    """Two of stop, shutter time and ISO fixed: what they are in words, the third in the light asked for, and in all."""

    fixed: str
    solved: str
    here: ThirdValue
    rows: tuple[ThirdValue, ...]


@dataclass(frozen=True, kw_only=True)
class LightPage:
    """The light: the third of a fixed two, the plan, or why there is none; how the ring is put for the best stop."""

    form: RecordForm
    errors: dict[str, str]
    third: Third | None
    plan: LightPlan | None
    ev: float
    put: Put | None
    ring: RingView | None
    film: bool
    shutter: str
    held_words: str
    frozen_words: str
    unit: Unit

    @property
    def index_moves(self) -> bool:
        """Whether the index stands elsewhere at another stop."""
        return self.plan is not None and len({row.setting.angle_deg for row in self.plan.rows}) > 1


def light_page(
    stored: StoredSetup, form: RecordForm, asked: LightAsked | None, errors: dict[str, str], steady: float, unit: Unit
) -> LightPage:
    """Compute the page."""
    setup, plan, third = stored.setup, None, None
    if asked is not None:
        try:
            third = _third(setup, asked)
        except WelotropeError as error:
            errors = {**errors, "fixed_stop": error.sentence}
        try:
            plan = plan_light(setup, asked.near_mm, asked.far_mm, asked.circumstances(steady))
        except WelotropeError as error:
            errors = {**errors, "near": error.sentence}
    setting, dial = plan.best.setting if plan else None, shutter_of(setup.body)
    return LightPage(
        form=form, errors=errors, third=third, plan=plan, ev=asked.ev if asked else 0.0,
        put=put(setup, setting, unit) if setting else None,
        ring=ring_view(setup, setting.angle_deg, setting.stop, [], unit) if setting else None,
        film=setup.body.is_film, shutter=shutter_words(setup.body),
        held_words=longest_words(dial, plan.held_s * THIRD_STOP) if plan else "",
        frozen_words=longest_words(dial, plan.frozen_s * THIRD_STOP) if plan else "", unit=unit,
    )  # fmt: skip


def _third(setup: Setup, asked: LightAsked) -> Third | None:
    fixed = asked.fixed(film=setup.body.is_film)
    if fixed is None:
        return None
    bounds = Bounds(
        stops=setup.lens.stops, dial=shutter_of(setup.body), least_iso=asked.iso,
        most_iso=asked.iso if setup.body.is_film else asked.highest_iso,
    )  # fmt: skip
    name = next((one.name for one in BRIGHTEST_FIRST if abs(one.ev - asked.ev) < 1e-9), f"EV {asked.ev:.1f}")
    return Third(
        fixed=_words(fixed), solved=fixed.solved.value, here=third_in(name, asked.ev, fixed, bounds),
        rows=third_rows(fixed, bounds),
    )  # fmt: skip


def _words(fixed: FixedTwo) -> str:
    said = [
        None if fixed.shutter_s is None else format_shutter(fixed.shutter_s),
        None if fixed.stop is None else format_stop(fixed.stop),
        None if fixed.iso is None else f"ISO {fixed.iso:g}",
    ]
    return ", ".join(one for one in said if one is not None)


router = APIRouter()


@router.get("/plan/light")
def light(context: CurrentContext) -> Response:
    """Plan the exposure of a zone."""
    stored = context.selected_setup()
    usual = {"iso": "400" if stored.setup.body.is_film else "100"}
    usual |= {"held": "stabilised"} if stored.setup.body.traits.stabiliser else {}
    form, asked, errors = read_asked(LightForm, context, usual)
    steady = context.personal().eye["steady_hand"]
    page = light_page(stored, form, asked, errors, steady, context.preferences.unit)
    return context.page("plan/light/page.html", page, status=422 if page.errors else 200)
