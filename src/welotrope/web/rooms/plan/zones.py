"""/plan/zones: one to three zones to remember."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from enum import StrEnum

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.errors import Field, WelotropeError
from welotrope.core.inputs import Ask, check_limits, choice_input, field_spec, number_input
from welotrope.core.plan.field_settings import Between, KeptZone, Preset, with_gaps
from welotrope.core.plan.own_measures import ANGLES_DEG, GroundRow, OwnMeasures, ground_row
from welotrope.core.plan.setting import ring_setting
from welotrope.core.plan.zone_set import (
    GuessRow,
    RememberedZone,
    SchoolRow,
    WaistView,
    guess_rows,
    remembered_zones,
    school_rows,
    waist_views,
    zones_between,
)
from welotrope.core.ring.survey import distance_cell
from welotrope.core.units.distance import MM_PER_FOOT, Unit
from welotrope.core.units.exposure import format_stop, snap_stop
from welotrope.store.queries.kit import StoredSetup
from welotrope.web.components.ground import GroundBands, ground_bands
from welotrope.web.components.ring import RingView, ring_view
from welotrope.web.components.setting import Put, put
from welotrope.web.forms import RecordForm, record_form
from welotrope.web.request.context import CurrentContext
from welotrope.web.request.query_form import read_asked
from welotrope.web.rooms.plan.inputs import overlap_asked, stop_asked
from welotrope.web.state.personal import Personal


class HowMany(StrEnum):
    """How many zones to remember."""

    ONE = "1"
    TWO = "2"
    THREE = "3"


@dataclass(frozen=True, kw_only=True)
class ZonesAsked:
    """Zones: how many, from where inwards, at a stop or in to a distance (mm)."""

    count: HowMany = field(
        metadata=field_spec(choice_input("count", "Number of zones", HowMany, HowMany.TWO, ask=Ask.PICK))
    )
    stop: float = field(metadata=field_spec(stop_asked(8.0, hint="used when “near end” is empty")))
    far_mm: float = field(
        metadata=field_spec(
            distance_cell(
                "far",
                Field("far", "far"),
                "Far end",
                optional=True,
                empty=math.inf,
                usual="∞",
                hint="if empty: the horizon",
            )
        )
    )
    near_mm: float | None = field(
        metadata=field_spec(
            distance_cell(
                "near",
                Field("near", "near"),
                "Near end",
                optional=True,
                example="1.2 m",
                example_ft="4 ft",
                hint="e.g. 1.5 m; the widest f-stop that reaches it is used",
            )
        )
    )
    overlap: float = field(
        metadata=field_spec(overlap_asked(0.0, hint="of the window, as a margin for setting errors"))
    )
    tilt_deg: float = field(
        metadata=field_spec(
            number_input(
                "tilt",
                Field("tilt", "tilt"),
                "Waist-level tilt upwards",
                unit="°",
                low=-80,
                high=80,
                empty=10.0,
                usual="10",
            )
        )
    )

    def __post_init__(self) -> None:
        check_limits(self)


ZonesForm = record_form(ZonesAsked)


_GUESSED = {
    Unit.METRIC: tuple(metres * 1000.0 for metres in (1, 1.5, 2, 3, 5, 8)),
    Unit.FEET: tuple(feet * MM_PER_FOOT for feet in (3, 5, 7, 10, 15, 25)),
}


@dataclass(frozen=True, kw_only=True)
class ZoneCard:
    """A zone: how to set it, what it holds, and its limits in the photographer's own measures."""

    zone: RememberedZone
    put: Put
    ring: RingView
    near_words: str
    far_words: str


@dataclass(frozen=True, kw_only=True)
class StopPanel:
    """What a stop gives, drawn beforehand so that the slider shows it at once."""

    stop: float
    zones: tuple[RememberedZone, ...]
    bands: GroundBands


@dataclass(frozen=True, kw_only=True)
class ZonesPage:
    """Zones: the cards of those chosen, what every stop gives, and what they cost."""

    form: RecordForm
    errors: dict[str, str]
    cards: tuple[ZoneCard, ...]
    panels: tuple[StopPanel, ...]
    chosen: float
    guesses: tuple[GuessRow, ...]
    guess_share: float
    guess_trials: int
    schools: tuple[SchoolRow, ...]
    waist: tuple[WaistView, ...]
    waist_mm: float
    kept: tuple[Between, ...]
    ground: tuple[GroundRow, ...]
    eye_mm: float
    closest_mm: float
    unit: Unit

    @property
    def counted(self) -> str:
        """How many zones there are, in words."""
        return ("No zone", "One zone", "Two zones", "Three zones")[len(self.cards)]

    @property
    def last_index(self) -> int:
        """The last of the panels."""
        return len(self.panels) - 1

    @property
    def chosen_index(self) -> int:
        """Which of the panels is shown at first."""
        return next((index for index, panel in enumerate(self.panels) if panel.stop == self.chosen), 0)


def zones_page(
    stored: StoredSetup,
    form: RecordForm,
    asked: ZonesAsked | None,
    errors: dict[str, str],
    personal: Personal,
    presets: list[Preset],
    unit: Unit,
) -> ZonesPage:
    """Compute the page; without a question that can be answered there are no cards."""
    setup, eye, guessing = stored.setup, personal.eye, personal.hands.guessing
    own = OwnMeasures.of(eye)
    zones: tuple[RememberedZone, ...] = ()
    if asked is not None:
        try:
            zones = _zones(stored, asked)
        except WelotropeError as error:
            errors = {
                error.key if error.key == "stop" else "near" if asked.near_mm is not None else "far": error.sentence
            }
    count = int(asked.count) if asked else 2
    far = asked.far_mm if asked else math.inf
    stop = zones[0].setting.stop if zones else setup.lens.widest
    panels = tuple(_panel(stored, one, count, far, asked, unit) for one in setup.lens.stops) if zones else ()
    return ZonesPage(
        form=form, errors=errors, cards=tuple(_card(stored, zone, own, unit) for zone in zones), panels=panels,
        chosen=stop, guesses=guess_rows(zones, _GUESSED[unit], eye["distance_guess"], guessing) if zones else (),
        guess_share=guessing.sigma_z * eye["distance_guess"],
        guess_trials=guessing.trials, schools=school_rows(setup, stop, count, far) if zones else (),
        waist=waist_views(setup, zones[-1], own.waist_mm, tilts_deg=(0.0, asked.tilt_deg)) if zones and asked else (),
        waist_mm=own.waist_mm, kept=with_gaps([_kept(stored, preset) for preset in presets]),

        ground=tuple(ground_row(own.eye_mm, angle) for angle in ANGLES_DEG),
        eye_mm=own.eye_mm, closest_mm=setup.lens.closest_mm, unit=unit,
    )  # fmt: skip


def _kept(stored: StoredSetup, preset: Preset) -> KeptZone:
    setup = stored.setup
    setting = ring_setting(setup, setup.ring(preset.stop).setting_for(preset.distance_mm), preset.stop)
    return KeptZone(name=preset.name, stop=preset.stop, near_mm=setting.near_mm, far_mm=setting.far_mm)


def _zones(stored: StoredSetup, asked: ZonesAsked) -> tuple[RememberedZone, ...]:
    count = int(asked.count)
    if asked.near_mm is not None:
        return zones_between(stored.setup, asked.near_mm, asked.far_mm, count, overlap=asked.overlap)
    stored.setup.ring(stored.setup.lens.check_has(asked.stop)).check_near(asked.far_mm, field="far")
    return remembered_zones(stored.setup, asked.stop, count, far_mm=asked.far_mm, overlap=asked.overlap)


def _card(stored: StoredSetup, zone: RememberedZone, own: OwnMeasures, unit: Unit) -> ZoneCard:
    setting = zone.setting
    return ZoneCard(
        zone=zone, put=put(stored.setup, setting, unit),
        ring=ring_view(stored.setup, setting.angle_deg, setting.stop, [], unit),
        near_words=own.words(setting.near_mm), far_words=own.words(setting.far_mm),
    )  # fmt: skip


def _panel(
    stored: StoredSetup, stop: float, count: int, far_mm: float, asked: ZonesAsked | None, unit: Unit
) -> StopPanel:
    zones = remembered_zones(stored.setup, stop, count, far_mm=far_mm, overlap=asked.overlap if asked else 0.0)
    limits = [(zone.setting.near_mm, zone.setting.focus_mm, zone.setting.far_mm) for zone in zones]
    return StopPanel(stop=stop, zones=zones, bands=ground_bands(stored.setup.lens.closest_mm, limits, unit))


router = APIRouter()


@router.get("/plan/zones")
def zones(context: CurrentContext) -> Response:
    """Plan zones side by side."""
    stored = context.selected_setup()
    usual = {"stop": format_stop(snap_stop(8, stored.setup.lens.stops))}
    form, asked, errors = read_asked(ZonesForm, context, usual)
    page = zones_page(stored, form, asked, errors, context.personal(), context.presets(), context.preferences.unit)
    return context.page("plan/zones/page.html", page, status=422 if page.errors else 200)
