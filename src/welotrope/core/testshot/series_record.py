"""What a series of the ring or of stops told, as it is kept."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, kw_only=True)
class SeriesPoint:
    """How sharp a picture was, 1 for the sharpest: where ring or stop stood, and its 95 % interval where known."""

    at: float
    score: float
    low: float | None = None
    high: float | None = None


@dataclass(frozen=True, kw_only=True)
class SeriesCurve:
    """How sharp the pictures are in one part of them, and the best place where it stands clear."""

    part: str
    points: tuple[SeriesPoint, ...]
    best: float | None = None
    low: float | None = None
    high: float | None = None


@dataclass(frozen=True, kw_only=True)
class SeriesRecord:
    """A series: its pictures by name, its curves by part of the picture, and what was doubtful."""

    pictures: tuple[str, ...]
    curves: tuple[SeriesCurve, ...]
    warnings: tuple[str, ...] = ()
