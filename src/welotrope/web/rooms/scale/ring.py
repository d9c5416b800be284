"""GET /scale: the ring of the set-up in hand."""

from __future__ import annotations

import json
import math
from dataclasses import dataclass, replace

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.aids.advice import AidVerdict, judge_aids
from welotrope.core.kit.camera_kind import ScaleShown
from welotrope.core.kit.known_ring import Basis, InfinityBasis
from welotrope.core.kit.lens import RingSource
from welotrope.core.kit.lens_inputs import InfinitySide
from welotrope.core.kit.setup import Setup
from welotrope.core.plan.field_settings import Preset
from welotrope.core.plan.setting import (
    Placement,
    RingSetting,
    Subject,
    angle_with_far_limit,
    farthest_subject,
    hyperfocal_angle,
    indicator_words,
    marks_on_limits,
    place_subjects,
    ring_setting,
    subject_token,
)
from welotrope.core.units.distance import MAX_DISTANCE_MM, Unit
from welotrope.core.units.exposure import format_stop
from welotrope.core.units.turn import TurnUnit, turn_text
from welotrope.store.queries.kit import StoredSetup
from welotrope.web.components.ground import GroundView, ground_view
from welotrope.web.components.ring import RingView, ring_view, table_json
from welotrope.web.request.context import CurrentContext
from welotrope.web.state.personal import Personal
from welotrope.web.state.ring_state import RingState

_CLOSE_UP = 0.1  # magnification from which the window on the ring is a tenth wider than at infinity


def basis_words(setup: Setup) -> str:
    """Say what the ring's distances rest on, after the label."""
    known, shown = setup.known, setup.body.kind.scale
    if known.basis is Basis.ASSUMED and shown is ScaleShown.BAR:
        return "the bar’s distances are not known yet; read its steps against a wall in Measure"
    if known.basis is Basis.ASSUMED and shown is ScaleShown.NUMBERS:
        return "millimetres on the bed from the infinity position, from the marked focal length"
    if known.basis is Basis.ASSUMED:
        return (
            f"a throw of {known.true.throw_deg:.0f}° is assumed; angles and windows are estimates until you measure it"
        )
    if known.basis is Basis.ENGRAVED:
        readings = known.calibration.used if known.calibration else 0
        if readings:
            return f"{readings} readings of the engraving"
        return {
            RingSource.READING: "one reading of the engraving; the far end is calculated from it",
            RingSource.MEASURED: "measured throw; distances calculated from it",
        }[setup.lens.ring_source]
    if known.step_deg:
        return f"{_readings(setup)} of the indicator at measured distances"
    return f"{_readings(setup)} at measured distances" + ("" if setup.records.measured else ", on another set-up")


def infinity_words(setup: Setup) -> str:
    """Say where infinity lies and how that is known; empty for a maker’s own scale, and with no ring to sight it on."""
    known = setup.known
    if known.step_deg is not None or setup.body.kind.scale is not ScaleShown.RING:
        return ""
    if known.infinity_basis is InfinityBasis.ENGRAVED and not setup.infinity_known:
        return "Infinity is not known yet: check it once."
    angle = known.true.infinity_deg
    source = {
        InfinityBasis.SIGHTED: "by your check", InfinityBasis.MEASURED: "by the measured distances",
        InfinityBasis.ADAPTER: "from the adapter’s thickness, not checked yet", InfinityBasis.ENGRAVED: "",
    }[known.infinity_basis]  # fmt: skip
    if not known.scale_is_off:
        if known.infinity_basis is InfinityBasis.ADAPTER:
            return "By the adapter’s thickness, infinity should be at its mark; not checked yet."
        return "Infinity is at its mark." if source else ""
    if angle < 0:
        return f"Infinity is not reached, {source}."
    off = angle - known.scale.infinity_deg
    side = "before the ∞ mark" if off > 0 else "past the ∞ mark"
    return f"Infinity lies {abs(off):.1f}° {side}, {source}."


def _readings(setup: Setup) -> str:
    calibration = setup.known.calibration
    return f"{calibration.used if calibration else 0} readings"


@dataclass(frozen=True, kw_only=True)
class ScalePage:
    """The Scale room for the set-up in hand and a ring state."""

    stored: StoredSetup
    state: RingState
    setting: RingSetting
    hyperfocal: RingSetting
    hyperfocal_href: str
    farthest: Subject | None
    farthest_href: str
    far_mark: str
    near_mark: str
    placements: tuple[Placement, ...]
    ring: RingView
    ground: GroundView
    table: str
    presets: list[Preset]
    best_aid: AidVerdict | None
    basis: str
    infinity: str
    shift: bool
    one_turn: str
    window_text: str
    indicator: str
    window_words: str
    marks_read: bool
    unit: Unit

    @property
    def finest_aid(self) -> FinestAid:
        """The finest aid of the body here."""
        return FinestAid(self.best_aid, self.state, self.stored.setup.turn_in)

    @property
    def far_stop_mark(self) -> str:
        """The stop as it is marked on the lens, without its ``f/``."""
        return format_stop(self.stored.setup.marked_stop(self.setting.stop)).removeprefix("f/")

    @property
    def horizon_reached(self) -> bool:
        """Whether the hyperfocal setting holds infinity."""
        return self.hyperfocal.zone.contains(math.inf) or self.hyperfocal.far_mm > MAX_DISTANCE_MM

    @property
    def tokens(self) -> list[str]:
        """The subjects as URL tokens."""
        return [subject_token(subject) for subject in self.state.subjects]

    @property
    def subjects_json(self) -> str:
        """The subjects for the script as [name, mm], null for infinity; safe inside a script element."""
        pairs = [
            [subject.name, None if math.isinf(subject.distance_mm) else subject.distance_mm]
            for subject in self.state.subjects
        ]
        return json.dumps(pairs).replace("<", "\\u003c")


@dataclass(frozen=True)
class FinestAid:
    """The finest aid at a setting, None without any, and the setting with what is focused on."""

    verdict: AidVerdict | None
    state: RingState
    turn_in: TurnUnit | None


def scale_page(
    stored: StoredSetup, state: RingState, presets: list[Preset], personal: Personal, unit: Unit
) -> ScalePage:
    """Compute the Scale room."""
    setup = stored.setup
    setting = ring_setting(setup, state.angle_deg, state.stop)
    placements = place_subjects(state.subjects, setting.zone)
    farthest = farthest_subject(state.subjects)
    infinity_angle = hyperfocal_angle(setup, state.stop)
    hyperfocal = ring_setting(setup, infinity_angle, state.stop)
    far_side = setup.lens.infinity_side
    return ScalePage(
        stored=stored,
        state=state,
        setting=setting,
        hyperfocal=hyperfocal,
        hyperfocal_href=_href(stored, state, infinity_angle),
        farthest=farthest,
        farthest_href=_href(stored, state, angle_with_far_limit(setup, farthest.distance_mm, state.stop))
        if farthest
        else "",
        far_mark=far_side.value,
        near_mark=(InfinitySide.LEFT if far_side is InfinitySide.RIGHT else InfinitySide.RIGHT).value,
        placements=tuple(placements),
        ring=ring_view(setup, state.angle_deg, state.stop, presets, unit),
        ground=ground_view(setup.lens.closest_mm, setting.focus_mm, setting.near_mm, setting.far_mm, placements, unit),
        table=table_json(setup, state.stop),
        presets=presets,
        best_aid=best_aid(stored, state, personal),
        basis=basis_words(setup),
        infinity=infinity_words(setup),
        shift=setup.records.shift is not None,
        one_turn=setup.turn_in.words if setup.turn_in else "1° of ring",
        window_text=turn_text(setting.window_deg, setup.turn_in),
        indicator=indicator_words(setup, state.angle_deg, state.stop),
        window_words=_window_words(setting) if setup.turn_in is None else "",
        marks_read=marks_on_limits(setup, hyperfocal) is not None,
        unit=unit,
    )


def _window_words(setting: RingSetting) -> str:
    if setting.magnification >= _CLOSE_UP:
        return "close up it widens: turning the ring also moves the lens"
    if setting.window_mm is None:
        return "in mm as well once the ring’s diameter is entered"
    return "almost the same at every distance, wider close up"


def best_aid(stored: StoredSetup, state: RingState, personal: Personal) -> AidVerdict | None:
    """Return the finest aid of the body at this setting, for what is focused on, or None without any."""
    situation = state.aim.situation(stored.setup, state.stop, state.angle_deg)
    verdicts = judge_aids(situation, eye=personal.eye, hands=personal.hands)
    return verdicts[0] if verdicts else None


def _href(stored: StoredSetup, state: RingState, angle_deg: float) -> str:
    distance = stored.setup.ring(state.stop).distance_at_angle(angle_deg)
    return f"/scale?{replace(state, distance_mm=distance).query}"


router = APIRouter()


@router.get("/scale")
def scale(context: CurrentContext) -> Response:
    """Show the ring and the ground strip."""
    stored = context.selected_setup()
    state = context.ring_state()
    page = scale_page(stored, state, context.presets(), context.personal(), context.preferences.unit)
    return context.page("scale/ring/page.html", page, query=state.query)


@router.get("/scale/aid")
def finest_aid(context: CurrentContext) -> Response:
    """Show the finest aid at a setting, as a fragment."""
    stored = context.selected_setup()
    state = context.ring_state()
    return context.fragment(
        "scale/ring/finest_aid.html",
        FinestAid(best_aid(stored, state, context.personal()), state, stored.setup.turn_in),
    )
