"""/aids: which aid resolves the focus wanted, and measuring a focus indicator."""

from __future__ import annotations

import statistics
from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.aids.advice import AidVerdict, judge_aids
from welotrope.core.aids.handling import HANDLING_RULES, handling
from welotrope.core.errors import OutOfRangeError, WelotropeError
from welotrope.core.kit.aids.confirmation import Confirmation
from welotrope.core.kit.aids.registry import aid_rules, view_called
from welotrope.core.kit.camera_kind import Viewing
from welotrope.core.kit.setup import sight_of
from welotrope.core.plan.field_settings import Preset
from welotrope.core.plan.setting import RingSetting, ring_setting
from welotrope.core.rules import Rule, RuleFinding
from welotrope.core.units.distance import Unit
from welotrope.core.units.text import number
from welotrope.store.queries import kit, practice
from welotrope.store.queries.kit import StoredSetup
from welotrope.web.components.plot import PlotBands, bands
from welotrope.web.components.ring import RingView, ring_view
from welotrope.web.forms import TextForm
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.rooms.aids.constants import ConstantRow, constant_rows
from welotrope.web.state.personal import Personal
from welotrope.web.state.ring_state import RingState

_LEAST_DEG, _MOST_DEG = 0.1, 180.0
_WINDOW_PX = 170.0
_SCALES = (8.0, 16.0, 32.0, 64.0, 128.0)


class LampForm(TextForm):
    """Ring positions as read, degrees."""

    on: str = ""
    off: str = ""

    def half_deg(self) -> float:
        """Return half the dead band, degrees.

        Raises
        ------
        WelotropeError
            When a position cannot be read, or the two lie impossibly near or far apart.
        """
        on, off = (number(text, f"lamp goes {way}") for way, text in (("on", self.on), ("off", self.off)))
        apart = abs(off - on)
        if not _LEAST_DEG <= apart <= _MOST_DEG:
            raise OutOfRangeError(
                "lamp goes off", self.off, f"that is {apart:g}° from where it goes on",
                f"Turn slowly from one side and read both places, {_LEAST_DEG:g} to {_MOST_DEG:g}° apart",
            )  # fmt: skip
        return apart / 2


@dataclass(frozen=True, kw_only=True)
class AidsPage:
    """The Aids room for the set-up in hand, a ring state, what there is to focus on and how the stop is viewed.

    ``seconds`` are what a round took in the middle, by kind of aid, with how many there were; ``lamp`` is where a focus
    indicator was seen to go on and off.
    """

    stored: StoredSetup
    state: RingState
    setting: RingSetting
    bands: PlotBands
    hints: list[RuleFinding]
    ring: RingView
    enlarged: float
    view: str
    view_stop: float
    trials: int
    average: bool
    average_query: str
    constants: tuple[ConstantRow, ...]
    rules: tuple[Rule[object], ...]
    seconds: Mapping[str, tuple[float, int]]
    lamp: LampForm
    lamp_problem: str
    unit: Unit

    @property
    def choices(self) -> tuple[tuple[str, str, list[str], str], ...]:
        """What may be said of the subject: lines matter only where a split may be laid across them."""
        split = "split_image" in self.stored.setup.body.aids_by_tag
        return tuple(choice for choice in self.state.aim.choices if split or choice[0] != "lines")

    @property
    def may_choose_view(self) -> bool:
        """Whether one may look wide open or at the taking stop, and the two differ."""
        kind = self.stored.setup.body.kind
        apart = kind.viewing in (Viewing.OWN_FINDER, Viewing.OWN_LENS)
        return not apart and self.setting.stop != self.stored.setup.lens.widest

    def mm_of_ring(self, verdict: AidVerdict) -> float | None:
        """Return an aid's error along the ring, mm; None for a ring whose diameter is not known."""
        per_degree = self.stored.setup.mm_per_degree
        return None if per_degree is None else verdict.error_deg * per_degree


def aids_page(
    stored: StoredSetup,
    state: RingState,
    presets: list[Preset],
    personal: Personal,
    unit: Unit,
    seconds: Mapping[str, tuple[float, int]],
    lamp: LampForm,
    *,
    lamp_problem: str = "",
) -> AidsPage:
    """Compute the Aids room."""
    setup, eye = stored.setup, personal.eye
    setting = ring_setting(setup, state.angle_deg, state.stop)
    scale = next((s for s in reversed(_SCALES) if s * setting.window_deg <= _WINDOW_PX * 1.5), _SCALES[0])
    situation = state.aim.situation(setup, state.stop, state.angle_deg)
    verdicts, hints = judge_aids(situation, eye=eye, hands=personal.hands), handling(situation, eye=eye)
    ring = ring_view(setup, state.angle_deg, state.stop, presets, unit, px_per_deg=scale)
    return AidsPage(
        stored=stored, state=state, setting=setting,
        bands=bands(verdicts, setting.window_deg, scale, ring.direction),
        hints=hints, ring=ring, enlarged=scale / _SCALES[0], view=state.aim.view_of(setup),
        view_stop=situation.view_stop, trials=personal.hands.trials, average=personal.average,
        average_query=state.query if personal.average else f"{state.query}&average=yes",
        constants=tuple(
            row for row in constant_rows(personal.constants, {}, {}) if row.constant.serves(setup.body.can_have)
        ),
        rules=_spoken(verdicts, hints), seconds=seconds, lamp=lamp,
        lamp_problem=lamp_problem, unit=unit,
    )  # fmt: skip


def _spoken(verdicts: list[AidVerdict], hints: list[RuleFinding]) -> tuple[Rule[object], ...]:
    """Return the rules that said something here, in the order of their tables."""
    said = {found.rule for verdict in verdicts for found in verdict.advice} | {hint.rule for hint in hints}
    every: tuple[Rule[Any], ...] = (*aid_rules(), *HANDLING_RULES)
    return tuple(rule for rule in every if rule.id in said)


router = APIRouter()


@router.get("/aids")
def aids(context: CurrentContext) -> Response:
    """Judge every aid of the body for the ring's setting and the subject."""
    return _page(context, LampForm())


@router.post("/aids/lamp")
def measure_lamp(context: CurrentContext) -> Response:
    """Keep how far a focus indicator stays lit, from where it went on and off at this setting; undoable."""
    form, stored, state = LampForm.read(context.typed), context.selected_setup(), context.ring_state()
    body = stored.setup.body
    sight = sight_of(stored.setup, state.angle_deg, state.stop, stored.setup.view_stop(state.stop))
    try:
        half_mm = form.half_deg() / sight.degrees_per_defocus
        aids = tuple(replace(aid, half_mm=half_mm) if isinstance(aid, Confirmation) else aid for aid in body.aids)
        measured = replace(body, aids=aids)
    except WelotropeError as error:
        return _page(context, form, problem=error.sentence)
    with context.undoable_transaction(f"Measured the focus indicator of {body.name}"):
        kit.save_body(context.uow, measured, id=stored.body_id)
    return context.back_to(f"/aids?{state.query}")


def _page(context: RequestContext, lamp: LampForm, *, problem: str = "") -> Response:
    state = context.ring_state()
    page = aids_page(
        context.selected_setup(), state, context.presets(), context.personal(), context.preferences.unit,
        context.cached("seconds a round", lambda: _seconds(context)), lamp, lamp_problem=problem,
    )  # fmt: skip
    return context.page("aids/advice/page.html", page, query=state.query, status=422 if problem else 200)


def _seconds(context: RequestContext) -> Mapping[str, tuple[float, int]]:
    """Return what a round took in the middle, s, and how many there were, by kind of aid."""
    by_kind: dict[str, list[float]] = defaultdict(list)
    for stored in practice.list_trials(context.uow):
        called = view_called(stored.trial.aid)
        by_kind[called[0].tag if called else stored.trial.aid].append(stored.trial.seconds)
    return {tag: (statistics.median(held), len(held)) for tag, held in by_kind.items()}
