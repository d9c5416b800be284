"""What the page of zones shows."""

from __future__ import annotations

import math
from dataclasses import dataclass

from welotrope.core.errors import WelotropeError
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
from welotrope.core.units.distance import MM_PER_FOOT, Unit
from welotrope.store.queries.kit import StoredSetup
from welotrope.web.components.ground.bands import GroundBands, ground_bands
from welotrope.web.components.ring.view import RingView, ring_view
from welotrope.web.components.setting.view import Put, put
from welotrope.web.forms.record_form import RecordForm
from welotrope.web.rooms.plan.zones.form import ZonesAsked
from welotrope.web.state.personal import Personal

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
