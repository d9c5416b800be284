"""Where the residual plot is drawn: each reading’s error in its own unit over the ring, in pixels of a drawing."""

from __future__ import annotations

import math
from dataclasses import dataclass

from welotrope.core.ring.calibration import Calibration
from welotrope.core.ring.engraving import fit_labels
from welotrope.core.ring.survey import Survey
from welotrope.core.units.distance import Unit

WIDTH, HEIGHT = 380.0, 230.0
_LEFT, _RIGHT, _TOP, _BOTTOM = 58.0, 16.0, 24.0, 34.0
_CHAR = 6.6


@dataclass(frozen=True, kw_only=True)
class Dot:
    """A reading: its place, its name if there is room, its error in words, and how it counts."""

    x: float
    y: float
    name: str
    text: str
    state: str
    labelled: bool

    @property
    def anchor(self) -> str:
        """On which side of the dot its name has room."""
        return "start" if self.x < _LEFT + 16 else "end" if self.x > WIDTH - _RIGHT - 20 else "middle"


@dataclass(frozen=True, kw_only=True)
class ResidualPlot:
    """Everything the plot's partial draws."""

    width: float
    height: float
    zero_y: float
    band_top: float
    band_bottom: float
    dots: tuple[Dot, ...]
    y_ticks: tuple[tuple[float, str], ...]
    x_ticks: tuple[tuple[float, str], ...]
    left: float
    right: float

    @property
    def across(self) -> float:
        """Width of the field the dots lie in."""
        return self.right - self.left

    @property
    def band_height(self) -> float:
        """Height of the band of the reading error."""
        return self.band_bottom - self.band_top


def residual_plot(calibration: Calibration, survey: Survey, unit: Unit) -> ResidualPlot:
    """Lay out the residuals of a calibration; the band is the reading error either way."""
    per, sign = survey.deg_per_unit, survey.way.symbol
    offs = [residual.off_deg / per for residual in calibration.residuals]
    error = survey.error_deg / per
    reach = _round_up(max(2 * error, *(abs(off) for off in offs)) * 1.15)
    angles = [residual.angle_deg / per for residual in calibration.residuals]
    low, high = min(0.0, *angles), max(*angles, 1.0)

    def x(angle: float) -> float:
        return _LEFT + (WIDTH - _LEFT - _RIGHT) * (angle - low) / (high - low)

    def y(off: float) -> float:
        return _TOP + (HEIGHT - _TOP - _BOTTOM) * (1 - (off + reach) / (2 * reach))

    names = [survey.name(i, unit=unit) for i in range(len(offs))]
    order = sorted(range(len(offs)), key=lambda i: (not calibration.residuals[i].outlier, -abs(offs[i])))
    kept = {order[k] for k in fit_labels([x(angles[i]) for i in order], [_CHAR * len(names[i]) + 6 for i in order])}
    dots = tuple(
        Dot(
            x=x(angles[i]),
            y=y(offs[i]),
            name=names[i],
            text=off_text(offs[i], sign),
            state=_state(r.outlier, r.used),
            labelled=i in kept,
        )
        for i, r in enumerate(calibration.residuals)
    )
    ticks = [
        (y(value), f"{value:+g}{sign}" if value else f"0{sign}")
        for value in (-reach, -reach / 2, 0.0, reach / 2, reach)
    ]
    return ResidualPlot(
        width=WIDTH, height=HEIGHT, zero_y=y(0), band_top=y(error), band_bottom=y(-error), dots=dots,
        y_ticks=tuple(ticks), x_ticks=tuple((x(angle), f"{angle:g}{sign}") for angle in _grid(low, high)), left=_LEFT,
        right=WIDTH - _RIGHT,
    )  # fmt: skip


def off_text(off: float, sign: str) -> str:
    """Write how far a reading is off, with its sign; nothing is off by minus zero."""
    return f"{round(off, 1) + 0.0:+.1f}{sign}"


def _state(outlier: bool, used: bool) -> str:
    return "used" if used and not outlier else "kept" if used else "out"


def _grid(low: float, high: float) -> list[float]:
    step = _round_up((high - low) / 6)
    return [i * step for i in range(math.ceil(low / step), math.floor(high / step) + 1)]


def _round_up(value: float) -> float:
    """Return 1, 2 or 5 times a power of ten, at least ``value``."""
    power = 10 ** math.floor(math.log10(value))
    return float(next(step * power for step in (1, 2, 5, 10) if step * power >= value * (1 - 1e-9)))
