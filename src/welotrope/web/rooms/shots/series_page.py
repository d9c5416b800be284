"""What the page of a series shows."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from welotrope.core.kit.lens import Lens
from welotrope.core.testshot.series_record import SeriesCurve
from welotrope.core.testshot.series_words import (
    PLANE,
    TURN,
    SeriesKind,
    SeriesOffer,
    offer_of,
    series_headline,
    series_sentences,
)
from welotrope.core.units.exposure import format_stop
from welotrope.store.queries.test_shots import StoredSeries
from welotrope.web.rooms.shots.series_taking import SeriesWatch

NEARER, FARTHER = "nearer", "farther"
WIDE, HIGH, LEFT, TOP = 560, 220, 40, 14
_SPARE = 1.05
_TITLES = {
    "centre": "Centre", "edge": "Edge", "corner": "Corner", "middle": "Middle", PLANE: "Where focus falls, mm",
    TURN: "To turn the ring by, degrees",
}  # fmt: skip
_FIGURES = (
    ("tilt_deg", "Left to right", "°", 2), ("tip_deg", "Bottom to top", "°", 2),
    ("across_mm", "Right edge against left, on the film", " mm", 3),
    ("curvature_mm", "Corners against the middle, on the film", " mm", 3),
)  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class SeriesGuide:
    """How a series is taken: what it asks, step by step, what is written for each picture, and which drawing shows it.

    ``tells`` says beforehand how many pictures settle it; ``least`` is the fewest that tell anything.
    """

    kind: SeriesKind
    label: str
    question: str
    tells: str
    steps: tuple[str, ...]
    places_label: str
    example: str
    drawing: str
    least: int


GUIDES = {
    one.kind: one
    for one in (
        SeriesGuide(
            kind=SeriesKind.STOPS, label="Which stop is sharpest", question="Which stop of this lens is the sharpest?",
            tells="One picture at each stop tells; two stops beyond the sharpest are enough.",
            steps=(
                "Put the camera on a tripod before something flat and full of detail that fills the picture, such as a "
                "wall of brick far away.",
                "Focus once, and leave the ring and the light alone.",
                "Take one picture at each stop with the self-timer; let the time follow.",
            ),
            places_label="Stops, in the order of the pictures", example="1.4 2 2.8 4 5.6 8", drawing="wall", least=3,
        ),
        SeriesGuide(
            kind=SeriesKind.SHIFT, label="How focus moves with the stop",
            question="Does focus move when this lens is stopped down?",
            tells="Three to six pictures of the slope sheet tell, one at each stop.",
            steps=(
                "Put the camera on a tripod before the slope sheet, at 35° to 60°. Focus on the bold line, wide open.",
                "Leave the ring alone from now on.",
                "Take one picture at each stop, the widest first, with the self-timer.",
            ),
            places_label="Stops, in the order of the pictures", example="1.4 2 2.8 4", drawing="slope", least=2,
        ),
        SeriesGuide(
            kind=SeriesKind.RING, label="Where the ring is sharpest",
            question="Where on the ring is this subject sharpest?",
            tells="Four to ten pictures tell. It ends once two on either side of the sharpest have settled it.",
            steps=(
                "Put the camera on a tripod before the slope sheet, something detailed, or stars. It has to fill the "
                "middle of the picture.",
                "Set the widest stop and begin on one side of the sharpest place.",
                "Turn the ring by the same small amount before each picture, through the sharpest place, and note each "
                "reading.",
            ),
            places_label="Readings, in the order of the pictures", example="0 2.5 5 7.5 10", drawing="far", least=4,
        ),
        SeriesGuide(
            kind=SeriesKind.LEVEL, label="Whether the lens stands straight",
            question="Does the lens stand straight to the film?",
            tells="Two pictures of the wall sheets tell: one focused nearer than the wall, one farther.",
            steps=(
                "Pin at least three wall sheets side by side so that they reach across the picture. Stand straight "
                "before them with a tripod, the lens at its widest stop.",
                "Focus on the wall, then turn the ring a little nearer, until all of it is soft but the black squares "
                "can still be made out. Take the first picture.",
                "Turn the ring as far to the other side of the wall, and take the second.",
            ),
            places_label="Focused nearer or farther than the wall, in the order of the pictures",
            example=f"{NEARER} {FARTHER}", drawing="wall", least=1,
        ),
    )
}  # fmt: skip


def usual_places(kind: SeriesKind, lens: Lens) -> str:
    """Return what a series with a lens is usually taken at, as it would be written; empty where that is open."""
    if kind is SeriesKind.LEVEL:
        return f"{NEARER} {FARTHER}"
    if not kind.has_stops:
        return ""
    stops = sorted(lens.stops)
    return " ".join(f"{stop:g}" for stop in (stops[:6] if kind is SeriesKind.SHIFT else stops))


@dataclass(frozen=True, kw_only=True)
class MeasuredPoint:
    """A picture on the plot: its place, the ends of its interval, and what it stands for."""

    x: float
    y: float
    low_y: float
    high_y: float
    text: str


@dataclass(frozen=True, kw_only=True)
class CurveView:
    """A curve as it is drawn: what of, its dots, the line through them, where nothing lies, and what it says."""

    title: str
    dots: tuple[MeasuredPoint, ...]
    path: str
    zero_y: float | None
    top: str
    says: str


@dataclass(frozen=True, kw_only=True)
class FigureView:
    """A value with its interval, and how it is written."""

    name: str
    value: float
    low: float
    high: float
    unit: str
    digits: int


@dataclass(frozen=True, kw_only=True)
class SeriesForm:
    """What is typed before a series is taken."""

    places: str = ""
    stop: str = ""
    folder: str = ""
    in_degrees: bool = False
    at_infinity: bool = False


@dataclass(frozen=True, kw_only=True)
class Result:
    """What a series told."""

    stored: StoredSeries
    headline: str
    sentences: tuple[str, ...]
    curves: tuple[CurveView, ...]
    figures: tuple[FigureView, ...]
    offer: SeriesOffer | None
    path: str


@dataclass(frozen=True, kw_only=True)
class WatchedSeries:
    """A series that is coming in: which place is next, what came last, and what was wrong."""

    batch: str
    folder: str
    there: bool
    count: int
    of: int
    next: str
    last: str
    said: str
    enough: bool

    @property
    def number(self) -> int:
        """Of the next picture, from 1."""
        return self.count + 1


@dataclass(frozen=True, kw_only=True)
class SeriesPage:
    """A series to be taken, one that is coming in, or what one told."""

    guide: SeriesGuide
    guides: tuple[SeriesGuide, ...]
    result: Result | None
    watched: WatchedSeries | None
    earlier: tuple[StoredSeries, ...]
    batch: str
    form: SeriesForm
    errors: dict[str, str]
    at_computer: bool
    wide: int = WIDE
    high: int = HIGH
    label_y: int = HIGH - 6


def result_of(stored: StoredSeries, lens_id: int | None) -> Result:
    """Return what a series told as it is shown; made-up ones offer nothing to keep."""
    kind, found = SeriesKind(stored.kind), stored.found
    offer = None if stored.made_up else offer_of(kind, found)
    return Result(
        stored=stored, headline=series_headline(kind, found), sentences=series_sentences(kind, found),
        curves=tuple(_view(kind, curve) for curve in found.curves if curve.points),
        figures=_figures(stored) if kind is SeriesKind.LEVEL else (), offer=offer,
        path=(offer.path or f"/kit/lenses/{lens_id}") if offer else "",
    )  # fmt: skip


def guides() -> tuple[SeriesGuide, ...]:
    """Return how each kind of series is taken."""
    return tuple(GUIDES[kind] for kind in SeriesKind)


def earlier_but(every: Sequence[StoredSeries], shown: int | None) -> tuple[StoredSeries, ...]:
    """Return earlier series without the one that is shown."""
    return tuple(one for one in every if one.id != shown)


def watched_series(batch: str, watch: SeriesWatch) -> WatchedSeries:
    """Return how far a series has come."""
    taking = watch.taking
    order, count = taking.order, len(taking.came)
    shot = taking.shots[-1] if taking.shots else None
    last = f"{shot.plane_mm:+.1f} mm" if shot is not None and shot.plane_mm is not None else ""
    return WatchedSeries(
        batch=batch, folder=str(watch.folder), there=watch.there, count=count, of=len(order.places),
        next="" if taking.is_whole else place_words(order.kind, order.places[count]), last=last,
        said=watch.said or watch.problem, enough=count >= GUIDES[order.kind].least,
    )  # fmt: skip


def place_words(kind: SeriesKind, place: float) -> str:
    """Return where ring or stop stands for a picture, as it is said."""
    if kind is SeriesKind.LEVEL:
        return "focused farther than the wall" if place > 0 else "focused nearer than the wall"
    return format_stop(place) if kind.has_stops else f"{place:g}"


def _view(kind: SeriesKind, curve: SeriesCurve) -> CurveView:
    count = len(curve.points)
    first, last = min(one.at for one in curve.points), max(one.at for one in curve.points)
    is_share = curve.part not in (PLANE, TURN)
    ends = [end for one in curve.points for end in (one.score, one.low, one.high) if end is not None]
    low, high = (0.0, _SPARE) if is_share else (min(0.0, *ends), max(0.0, *ends))
    span = (high - low) or 1.0

    def x(index: int, at: float) -> float:
        share = index / max(count - 1, 1) if kind.has_stops else (at - first) / ((last - first) or 1.0)
        return LEFT + share * (WIDE - LEFT - 20)

    def y(score: float) -> float:
        return TOP + (high - min(max(score, low), high)) / span * (HIGH - TOP - 30)

    dots = tuple(
        MeasuredPoint(
            x=x(index, one.at), y=y(one.score), low_y=y(one.score if one.low is None else one.low),
            high_y=y(one.score if one.high is None else one.high), text=place_words(kind, one.at),
        )
        for index, one in enumerate(curve.points)
    )  # fmt: skip
    path = "M" + " L".join(f"{dot.x:.1f} {dot.y:.1f}" for dot in dots)
    top = "" if is_share else f"{high:+.1f}"
    return CurveView(
        title=_TITLES[curve.part], dots=dots, path=path, zero_y=None if is_share else y(0.0), top=top,
        says=_says(kind, curve),
    )  # fmt: skip


def _says(kind: SeriesKind, curve: SeriesCurve) -> str:
    if curve.part == PLANE:
        return "behind is up, against the widest stop"
    if curve.part == TURN:
        return "towards closest focus is up"
    if curve.best is None:
        return ""
    if kind is SeriesKind.STOPS:
        return f"sharpest at {format_stop(curve.best)}"
    return f"sharpest at {curve.best:.3g}, {curve.low:.3g} to {curve.high:.3g}"


def _figures(stored: StoredSeries) -> tuple[FigureView, ...]:
    return tuple(
        FigureView(
            name=words,
            value=one.value,
            low=min(one.low, one.high),
            high=max(one.low, one.high),
            unit=unit,
            digits=digits,
        )
        for name, words, unit, digits in _FIGURES
        if (one := stored.found.figure(name)) is not None
    )
