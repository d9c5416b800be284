"""Where the turning of a round over time is drawn."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.practice.trial import Trial, best_path

_PLOT_W, _PLOT_H = 620.0, 180.0
_LEFT, _RIGHT = 46.0, 14.0


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
    width: float = _PLOT_W
    height: float = _PLOT_H
    left: float = _LEFT
    right: float = _PLOT_W - _RIGHT

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
        return _LEFT + (_PLOT_W - _LEFT - _RIGHT) * seconds / end

    def y(angle: float) -> float:
        return 10 + (_PLOT_H - 36) * (angle - low) / (high - low)

    step = max(1, round(end / 6))
    return PathPlot(
        points=" ".join(f"{x(seconds):.1f},{y(angle):.1f}" for seconds, angle in trial.path),
        best=" ".join(f"{x(seconds):.1f},{y(angle):.1f}" for seconds, angle in best),
        band_top=y(trial.target_deg - half), band_height=y(trial.target_deg + half) - y(trial.target_deg - half),
        target_y=y(trial.target_deg), end=(x(trial.path[-1][0]), y(trial.path[-1][1])),
        x_ticks=tuple((x(second), f"{second} s") for second in range(0, int(end) + 1, step)),
        y_ticks=tuple((y(angle), f"{angle:.0f}°") for angle in (low, (low + high) / 2, high)),
    )  # fmt: skip
