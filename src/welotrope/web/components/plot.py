"""Where plots are drawn: error bands of aids, learning, the path of a round, residuals of a ring, and trials."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from welotrope.core.aids.advice import AidVerdict
from welotrope.core.hand.progress import TrialBlock
from welotrope.core.practice.trial import Trial, best_path
from welotrope.core.ring.calibration import Calibration
from welotrope.core.ring.engraving import fit_labels
from welotrope.core.ring.survey import Survey
from welotrope.core.units.distance import Unit

LIMIT_PX = 480.0
_MIDDLE_LIMIT_PX = 400.0
_ROW_PX, _FIRST_PX = 34, 24
_LEARNING_WIDTH, _LEARNING_HEIGHT, _LEARNING_LEFT, _LEARNING_RIGHT, _LEARNING_TOP, _LEARNING_FOOT = (
    620.0,
    150.0,
    46.0,
    14.0,
    10.0,
    24.0,
)
_LEARNING_TICKS = (0.25, 0.5, 1.0, 2.0, 4.0, 8.0)
_PATH_WIDTH, _PATH_HEIGHT = 620.0, 180.0
_PATH_LEFT, _PATH_RIGHT = 46.0, 14.0
WIDTH, HEIGHT = 380.0, 230.0
_RESIDUALS_LEFT, _RESIDUALS_RIGHT, _RESIDUALS_TOP, _RESIDUALS_BOTTOM = 58.0, 16.0, 24.0, 34.0
_RESIDUALS_CHAR = 6.6
_TRIALS_WIDTH, _TRIALS_HEIGHT = 620.0, 190.0
_TRIALS_LEFT, _TRIALS_RIGHT, _TRIALS_TOP, _TRIALS_FOOT = 64.0, 14.0, 12.0, 24.0
_TRIALS_LEAST_PLACES = 6


@dataclass(frozen=True, kw_only=True)
class PlotBand:
    """An aid's error band: its middle, half its width and its line; ``cut`` when it runs off."""

    verdict: AidVerdict
    half_px: float
    middle_px: float
    cut: bool
    y_px: int

    @property
    def left_px(self) -> float:
        """Where it begins."""
        return self.middle_px - self.half_px

    @property
    def right_px(self) -> float:
        """Where it ends."""
        return self.middle_px + self.half_px


@dataclass(frozen=True)
class PlotBands:
    """The bands of all aids over the sharp window."""

    rows: tuple[PlotBand, ...]
    window_px: float
    window_width_px: float

    @property
    def foot_px(self) -> int:
        """Where the bands end below."""
        return _ROW_PX * len(self.rows)

    @property
    def height_px(self) -> int:
        """Height of the drawing, with a line of words below the bands."""
        return self.foot_px + 26


def bands(verdicts: Sequence[AidVerdict], window_deg: float, px_per_deg: float, direction: int) -> PlotBands:
    """Lay out the bands of aids on a ring drawn at a scale, in the order of the verdicts."""
    rows = [
        _band(verdict, px_per_deg, direction, _FIRST_PX + _ROW_PX * index) for index, verdict in enumerate(verdicts)
    ]
    width = window_deg * px_per_deg
    return PlotBands(tuple(rows), -width / 2, width)


def _band(verdict: AidVerdict, px_per_deg: float, direction: int, y_px: int) -> PlotBand:
    half = verdict.spread_deg * px_per_deg if verdict.usable else 0.0
    # Behind the subject is towards infinity, against the direction of nearer distances.
    middle = -verdict.bias_deg * px_per_deg * direction if verdict.usable else 0.0
    return PlotBand(
        verdict=verdict, half_px=min(half, LIMIT_PX), cut=half > LIMIT_PX, y_px=y_px,
        middle_px=min(max(middle, -_MIDDLE_LIMIT_PX), _MIDDLE_LIMIT_PX),
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class LearningPoint:
    """A block, px: its middle, and where its interval ends."""

    x: float
    y: float
    low_y: float
    high_y: float
    text: str


@dataclass(frozen=True, kw_only=True)
class LearningPlot:
    """A learning curve, px."""

    points: tuple[LearningPoint, ...]
    ticks: tuple[tuple[float, str], ...]
    last: int
    width: float = _LEARNING_WIDTH
    height: float = _LEARNING_HEIGHT
    left: float = _LEARNING_LEFT
    right: float = _LEARNING_WIDTH - _LEARNING_RIGHT


def learning_plot(blocks: Sequence[TrialBlock]) -> LearningPlot | None:
    """Lay blocks out; None with fewer than two."""
    if len(blocks) < 2:
        return None
    low = min(0.5, *(block.spread.low for block in blocks)) / 1.1
    high = max(2.0, *(block.spread.high for block in blocks)) * 1.1

    def y(value: float) -> float:
        return _LEARNING_TOP + (_LEARNING_HEIGHT - _LEARNING_TOP - _LEARNING_FOOT) * (
            math.log(high) - math.log(value)
        ) / (math.log(high) - math.log(low))

    step = (_LEARNING_WIDTH - _LEARNING_LEFT - _LEARNING_RIGHT) / len(blocks)
    points = tuple(
        LearningPoint(
            x=_LEARNING_LEFT + (place + 0.5) * step, y=y(block.spread.middle), low_y=y(block.spread.low),
            high_y=y(block.spread.high), text=f"{block.spread.middle:.1f}",
        )
        for place, block in enumerate(blocks)
    )  # fmt: skip
    ticks = tuple((y(tick), f"{tick:g}×") for tick in _LEARNING_TICKS if low <= tick <= high)
    return LearningPlot(points=points, ticks=ticks, last=blocks[-1].until)


@dataclass(frozen=True, kw_only=True)
class PathPlot:
    """The turning over time, in pixels: its line and the best one, the window's band, ticks of seconds and degrees."""

    points: str
    best: str
    band_top: float
    band_height: float
    target_y: float
    end: tuple[float, float]
    x_ticks: tuple[tuple[float, str], ...]
    y_ticks: tuple[tuple[float, str], ...]
    width: float = _PATH_WIDTH
    height: float = _PATH_HEIGHT
    left: float = _PATH_LEFT
    right: float = _PATH_WIDTH - _PATH_RIGHT

    @property
    def across(self) -> float:
        """Width of the field the path lies in."""
        return self.right - self.left


def path_plot(trial: Trial) -> PathPlot | None:
    """Lay the turning out over time; None when the ring was locked or never turned."""
    if len(trial.path) < 2 or not trial.counts:
        return None
    half = trial.window_deg / 2
    angles = [angle for _, angle in trial.path]
    best = best_path(trial)
    angles = [*angles, *(angle for _, angle in best)]
    low, high = min(*angles, trial.target_deg - half), max(*angles, trial.target_deg + half)
    low, high = low - 0.05 * (high - low), high + 0.05 * (high - low)
    end = max(trial.path[-1][0], 0.1)

    def x(seconds: float) -> float:
        return _PATH_LEFT + (_PATH_WIDTH - _PATH_LEFT - _PATH_RIGHT) * seconds / end

    def y(angle: float) -> float:
        return 10 + (_PATH_HEIGHT - 36) * (angle - low) / (high - low)

    step = max(1, round(end / 6))
    return PathPlot(
        points=" ".join(f"{x(seconds):.1f},{y(angle):.1f}" for seconds, angle in trial.path),
        best=" ".join(f"{x(seconds):.1f},{y(angle):.1f}" for seconds, angle in best),
        band_top=y(trial.target_deg - half), band_height=y(trial.target_deg + half) - y(trial.target_deg - half),
        target_y=y(trial.target_deg), end=(x(trial.path[-1][0]), y(trial.path[-1][1])),
        x_ticks=tuple((x(second), f"{second} s") for second in range(0, int(end) + 1, step)),
        y_ticks=tuple((y(angle), f"{angle:.0f}°") for angle in (low, (low + high) / 2, high)),
    )  # fmt: skip


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
        return (
            "start" if self.x < _RESIDUALS_LEFT + 16 else "end" if self.x > WIDTH - _RESIDUALS_RIGHT - 20 else "middle"
        )


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
        return _RESIDUALS_LEFT + (WIDTH - _RESIDUALS_LEFT - _RESIDUALS_RIGHT) * (angle - low) / (high - low)

    def y(off: float) -> float:
        return _RESIDUALS_TOP + (HEIGHT - _RESIDUALS_TOP - _RESIDUALS_BOTTOM) * (1 - (off + reach) / (2 * reach))

    names = [survey.name(i, unit=unit) for i in range(len(offs))]
    order = sorted(range(len(offs)), key=lambda i: (not calibration.residuals[i].outlier, -abs(offs[i])))
    kept = {
        order[k]
        for k in fit_labels([x(angles[i]) for i in order], [_RESIDUALS_CHAR * len(names[i]) + 6 for i in order])
    }
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
        y_ticks=tuple(ticks), x_ticks=tuple((x(angle), f"{angle:g}{sign}") for angle in _grid(low, high)),
        left=_RESIDUALS_LEFT, right=WIDTH - _RESIDUALS_RIGHT,
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
    width: float = _TRIALS_WIDTH
    height: float = _TRIALS_HEIGHT
    left: float = _TRIALS_LEFT
    right: float = _TRIALS_WIDTH - _TRIALS_RIGHT

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
        return _TRIALS_TOP + (_TRIALS_HEIGHT - _TRIALS_TOP - _TRIALS_FOOT) * (1 - value / reach) / 2

    places = max(len(values), _TRIALS_LEAST_PLACES)
    step = (_TRIALS_WIDTH - _TRIALS_LEFT - _TRIALS_RIGHT) / places
    dots = tuple(
        TrialDot(x=_TRIALS_LEFT + (place + 0.5) * step, y=y(value), text=text(value), within=abs(value) <= half)
        for place, value in enumerate(values)
    )
    ticks = ((y(half), text(half)), (y(0.0), "0"), (y(-half), text(-half)))
    return TrialsPlot(dots=dots, band_top=y(half), band_height=y(-half) - y(half), zero_y=y(0.0), y_ticks=ticks)
