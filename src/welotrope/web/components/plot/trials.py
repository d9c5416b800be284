"""Where the trials of a session are drawn: one after the other, each as far off as it was, over the sharp window."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

_WIDTH, _HEIGHT = 620.0, 190.0
_LEFT, _RIGHT, _TOP, _FOOT = 64.0, 14.0, 12.0, 24.0
_LEAST_PLACES = 6


@dataclass(frozen=True, kw_only=True)
class TrialDot:
    """A trial: where it is drawn, what it was, and whether it lies within."""

    x: float
    y: float
    text: str
    within: bool


@dataclass(frozen=True, kw_only=True)
class TrialsPlot:
    """The trials, px: dots, the band of the window, and the lines that are named."""

    dots: tuple[TrialDot, ...]
    band_top: float
    band_height: float
    zero_y: float
    y_ticks: tuple[tuple[float, str], ...]
    width: float = _WIDTH
    height: float = _HEIGHT
    left: float = _LEFT
    right: float = _WIDTH - _RIGHT

    @property
    def across(self) -> float:
        """Width of the field."""
        return self.right - self.left


def trials_plot(values: Sequence[float], half: float, text: Callable[[float], str]) -> TrialsPlot | None:
    """Lay trials out, in the unit of ``half``, half the window; positive (behind) is drawn above. None without any."""
    if not values:
        return None
    reach = max(1.6 * half, 1.15 * max(abs(value) for value in values), 1e-9)

    def y(value: float) -> float:
        return _TOP + (_HEIGHT - _TOP - _FOOT) * (1 - value / reach) / 2

    places = max(len(values), _LEAST_PLACES)
    step = (_WIDTH - _LEFT - _RIGHT) / places
    dots = tuple(
        TrialDot(x=_LEFT + (place + 0.5) * step, y=y(value), text=text(value), within=abs(value) <= half)
        for place, value in enumerate(values)
    )
    ticks = ((y(half), text(half)), (y(0.0), "0"), (y(-half), text(-half)))
    return TrialsPlot(dots=dots, band_top=y(half), band_height=y(-half) - y(half), zero_y=y(0.0), y_ticks=ticks)
