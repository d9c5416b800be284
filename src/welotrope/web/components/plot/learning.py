"""Where a learning curve is drawn: the spread of each ten trials with its interval, on a scale of ratios."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from welotrope.core.hand.progress import Block

_WIDTH, _HEIGHT, _LEFT, _RIGHT, _TOP, _FOOT = 620.0, 150.0, 46.0, 14.0, 10.0, 24.0
_TICKS = (0.25, 0.5, 1.0, 2.0, 4.0, 8.0)


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
    width: float = _WIDTH
    height: float = _HEIGHT
    left: float = _LEFT
    right: float = _WIDTH - _RIGHT


def learning_plot(blocks: Sequence[Block]) -> LearningPlot | None:
    """Lay blocks out; None with fewer than two."""
    if len(blocks) < 2:
        return None
    low = min(0.5, *(block.spread.low for block in blocks)) / 1.1
    high = max(2.0, *(block.spread.high for block in blocks)) * 1.1

    def y(value: float) -> float:
        return _TOP + (_HEIGHT - _TOP - _FOOT) * (math.log(high) - math.log(value)) / (math.log(high) - math.log(low))

    step = (_WIDTH - _LEFT - _RIGHT) / len(blocks)
    points = tuple(
        LearningPoint(
            x=_LEFT + (place + 0.5) * step, y=y(block.spread.middle), low_y=y(block.spread.low),
            high_y=y(block.spread.high), text=f"{block.spread.middle:.1f}",
        )
        for place, block in enumerate(blocks)
    )  # fmt: skip
    ticks = tuple((y(tick), f"{tick:g}×") for tick in _TICKS if low <= tick <= high)
    return LearningPlot(points=points, ticks=ticks, last=blocks[-1].until)
