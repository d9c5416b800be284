"""What the Aids page shows."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.aids.advice import Situation, Verdict, judge_aids
from welotrope.core.aids.constants import CONSTANTS, Constant
from welotrope.core.plan.setting import RingSetting, ring_setting
from welotrope.core.units.distance import Unit
from welotrope.store.queries.kit import StoredSetup
from welotrope.store.queries.presets import Preset
from welotrope.web.instruments.ring_view import RingView, ring_view
from welotrope.web.ring_state import RingState

_WINDOW_PX = 170.0
_SCALES = (8.0, 16.0, 32.0, 64.0, 128.0)
BAND_LIMIT_PX = 480.0


@dataclass(frozen=True)
class Band:
    """An aid's error band under the ring, half its width in pixels; ``cut`` when it runs off the drawing."""

    verdict: Verdict
    half_px: float
    cut: bool


@dataclass(frozen=True)
class AidsPage:
    """The Aids room for the set-up in hand, a ring state and how the stop is viewed."""

    stored: StoredSetup
    state: RingState
    setting: RingSetting
    bands: tuple[Band, ...]
    ring: RingView
    enlarged: float
    view: str
    view_stop: float
    constants: tuple[Constant, ...]
    unit: Unit


def aids_page(stored: StoredSetup, state: RingState, presets: list[Preset], view: str, unit: Unit) -> AidsPage:
    """Compute the Aids room; ``view`` is ``open`` (focus at the widest stop) or ``taking``."""
    setup = stored.setup
    view_stop = setup.lens.widest if view == "open" else state.stop
    setting = ring_setting(setup, state.angle_deg, state.stop)
    scale = next((s for s in reversed(_SCALES) if s * setting.window_deg <= _WINDOW_PX * 1.5), _SCALES[0])
    verdicts = judge_aids(Situation(setup, state.stop, view_stop, state.angle_deg))
    return AidsPage(
        stored,
        state,
        setting,
        tuple(_band(verdict, scale) for verdict in verdicts),
        ring_view(setup, state.angle_deg, state.stop, presets, unit, scale),
        scale / _SCALES[0],
        view,
        view_stop,
        CONSTANTS,
        unit,
    )


def _band(verdict: Verdict, scale: float) -> Band:
    half = verdict.error_deg * scale if verdict.usable else 0.0
    return Band(verdict, min(half, BAND_LIMIT_PX), half > BAND_LIMIT_PX)
