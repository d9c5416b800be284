"""What the page of a series of the ring or of stops shows."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from welotrope.core.json_values import JsonObject
from welotrope.core.testshot.series_record import SeriesCurve, SeriesPoint, SeriesRecord
from welotrope.core.units.stops import format_stop
from welotrope.store.queries.test_shots import StoredSeries

WIDE, HIGH, LEFT, TOP = 560, 220, 40, 14
KINDS = {"stops": "One flat subject at each stop", "ring": "The ring turned by known amounts"}


@dataclass(frozen=True, kw_only=True)
class Dot:
    """A picture on the plot: its place, the ends of its interval, and what it stands for."""

    x: float
    y: float
    low_y: float
    high_y: float
    text: str


@dataclass(frozen=True, kw_only=True)
class CurveView:
    """A curve as it is drawn: the part of the picture, its dots, the line through them, and what it says."""

    part: str
    dots: tuple[Dot, ...]
    path: str
    says: str


@dataclass(frozen=True, kw_only=True)
class SeriesPage:
    """A series to be taken, or what one told."""

    kind: str
    kinds: dict[str, str]
    shown: StoredSeries | None
    headline: str
    curves: tuple[CurveView, ...]
    earlier: tuple[StoredSeries, ...]
    batch: str
    places: str
    errors: dict[str, str]
    wide: int = WIDE
    high: int = HIGH
    label_y: int = HIGH - 6


def record_of(kind: str, found: JsonObject, pictures: Sequence[str]) -> SeriesRecord:
    """Return what was measured as it is kept."""
    curves = (_ring_curve(found),) if kind == "ring" else tuple(_stop_curves(found))
    return SeriesRecord(pictures=tuple(pictures), curves=curves, warnings=tuple(found["warnings"]))


def _ring_curve(found: JsonObject) -> SeriesCurve:
    points = tuple(SeriesPoint(at=one["at"], score=one["score"]) for one in found["curve"])
    return SeriesCurve(part="middle", points=points, best=found["best"], low=found["low"], high=found["high"])


def _stop_curves(found: JsonObject) -> Iterator[SeriesCurve]:
    best = {"centre": found["best_centre"], "corner": found["best_corner"]}
    for part, scores in found["zones"].items():
        points = tuple(
            SeriesPoint(at=one["stop"], score=one["score"], low=one["low"], high=one["high"]) for one in scores
        )
        if points:
            yield SeriesCurve(part=part, points=points, best=best.get(part))


def curve_views(kind: str, record: SeriesRecord) -> tuple[CurveView, ...]:
    """Return the curves of a series as they are drawn."""
    return tuple(_view(kind, curve) for curve in record.curves)


_IN = {"centre": "in the centre", "corner": "in the corners", "middle": "in the middle"}


def headline_of(kind: str, record: SeriesRecord) -> str:
    """Return what a series told, in one line."""
    told = {one.part: one for one in record.curves}
    if kind == "ring":
        ring = told["middle"]
        return "The sharpest place is not told" if ring.best is None else f"Sharpest at {ring.best:.3g} on the ring"
    asked = [told[part] for part in ("centre", "corner") if part in told]
    known = [f"at {format_stop(one.best)} {_IN[one.part]}" for one in asked if one.best is not None]
    unknown = [_IN[one.part] for one in asked if one.best is None]
    said = [f"Sharpest {' and '.join(known)}"] if known else []
    said += [f"{'no' if known else 'No'} stop stands out {' or '.join(unknown)}"] if unknown else []
    return "; ".join(said) or "There is too little detail to compare stops"


def _view(kind: str, curve: SeriesCurve) -> CurveView:
    count = len(curve.points)
    low, high = min(one.at for one in curve.points), max(one.at for one in curve.points)

    def x(index: int, at: float) -> float:
        share = (at - low) / ((high - low) or 1.0) if kind == "ring" else index / max(count - 1, 1)
        return LEFT + share * (WIDE - LEFT - 20)

    def y(score: float) -> float:
        return TOP + (1.05 - min(max(score, 0.0), 1.05)) / 1.05 * (HIGH - TOP - 30)

    dots = tuple(
        Dot(
            x=x(index, one.at), y=y(one.score), low_y=y(one.score if one.low is None else one.low),
            high_y=y(one.score if one.high is None else one.high), text=_at(kind, one.at),
        )
        for index, one in enumerate(curve.points)
    )  # fmt: skip
    path = "M" + " L".join(f"{dot.x:.1f} {dot.y:.1f}" for dot in dots)
    return CurveView(part=curve.part, dots=dots, path=path, says=_says(kind, curve))


def _at(kind: str, at: float) -> str:
    return format_stop(at) if kind == "stops" else f"{at:g}"


def _says(kind: str, curve: SeriesCurve) -> str:
    if curve.best is None:
        return ""
    if kind == "stops":
        return f"sharpest at {_at(kind, curve.best)}"
    return f"sharpest at {curve.best:.3g}, {curve.low:.3g} to {curve.high:.3g}"
