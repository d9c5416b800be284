"""What the Aids page shows."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from welotrope.core.aids.advice import AidVerdict, judge_aids
from welotrope.core.aids.handling import HANDLING_RULES, handling
from welotrope.core.kit.aids.registry import aid_rules
from welotrope.core.kit.camera_kind import Viewing
from welotrope.core.plan.field_settings import Preset
from welotrope.core.plan.setting import RingSetting, ring_setting
from welotrope.core.rules import Rule, RuleFinding
from welotrope.core.units.distance import Unit
from welotrope.store.queries.kit import StoredSetup
from welotrope.web.components.plot.bands import PlotBands, bands
from welotrope.web.components.ring.view import RingView, ring_view
from welotrope.web.rooms.aids.advice.form import LampForm
from welotrope.web.rooms.aids.constants.section import ConstantRow, constant_rows
from welotrope.web.state.personal import Personal
from welotrope.web.state.ring_state import RingState

_WINDOW_PX = 170.0
_SCALES = (8.0, 16.0, 32.0, 64.0, 128.0)


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
