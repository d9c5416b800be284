"""Where the error bands of aids are drawn under the ring, pixels from the index and from the top."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from welotrope.core.aids.advice import AidVerdict

LIMIT_PX = 480.0
_MIDDLE_LIMIT_PX = 400.0
_ROW_PX, _FIRST_PX = 34, 24


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
