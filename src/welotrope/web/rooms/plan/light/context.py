"""What the page of light shows."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.errors import WelotropeError
from welotrope.core.exposure.light import BRIGHTEST_FIRST
from welotrope.core.exposure.third import Bounds, FixedTwo, ThirdValue, third_in, third_rows
from welotrope.core.kit.body import longest_words, shutter_of, shutter_words
from welotrope.core.kit.setup import Setup
from welotrope.core.plan.light_plan import THIRD_STOP, LightPlan, plan_light
from welotrope.core.units.distance import Unit
from welotrope.core.units.exposure import format_shutter, format_stop
from welotrope.store.queries.kit import StoredSetup
from welotrope.web.components.ring.view import RingView, ring_view
from welotrope.web.components.setting.view import Put, put
from welotrope.web.forms.record_form import RecordForm
from welotrope.web.rooms.plan.light.form import LightAsked


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
