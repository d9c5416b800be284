"""What a series told in a photographer's words, and what it offers to fill in of lens and ring."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from enum import StrEnum

from welotrope.core.kit.lens import Lens
from welotrope.core.ring.focus_shift import MAX_SHIFT_DEG, FocusShift
from welotrope.core.ring.true_infinity import MAX_SIGHTINGS, InfinityRecord, Sighting
from welotrope.core.testshot.series_record import SeriesCurve, SeriesRecord
from welotrope.core.testshot.wall_reading import Told, WallReading, level_headline, level_sentences
from welotrope.core.units.exposure import format_stop

_IN = {"centre": "in the centre", "corner": "in the corners", "middle": "in the middle"}
PLANE, TURN = "plane", "turn"  # curves of focus shift: mm of the plane, and degrees of ring
_INTERVALS = ("tilt_deg", "tip_deg", "across_mm", "upright_mm", "curvature_mm")
_LEAST_STOPS = 2


class SeriesKind(StrEnum):
    """A series of pictures other than with one aid; its words are what was changed between them."""

    STOPS = "stops"
    RING = "ring"
    SHIFT = "shift"
    LEVEL = "level"

    @property
    def has_stops(self) -> bool:
        """Whether its pictures are told apart by their stops."""
        return self in (SeriesKind.STOPS, SeriesKind.SHIFT)


def series_headline(kind: SeriesKind, record: SeriesRecord) -> str:
    """Return what a series told, in one line.

    Parameters
    ----------
    kind
        Kind of series.
    record
        What the series told, as it is kept.
    """
    if kind is SeriesKind.LEVEL:
        return level_headline(wall_reading(record))
    if kind is SeriesKind.SHIFT:
        return _shift_headline(record)
    return _ring_headline(record) if kind is SeriesKind.RING else _stops_headline(record)


def series_sentences(kind: SeriesKind, record: SeriesRecord) -> tuple[str, ...]:
    """Return what follows from a series, sentence by sentence.

    Parameters
    ----------
    kind
        Kind of series.
    record
        What the series told, as it is kept.
    """
    if kind is SeriesKind.LEVEL:
        return tuple(level_sentences(wall_reading(record)))
    if kind is SeriesKind.SHIFT:
        return _shift_sentences(record)
    return tuple(_stops_sentences(record)) if kind is SeriesKind.STOPS else ()


def _stops_sentences(record: SeriesRecord) -> Iterator[str]:
    corner = record.curve("corner")
    if corner is not None and (good := good_from(corner)) is not None:
        yield f"From {format_stop(good)} on the corners cannot be told from their best."
    told = [
        f"{blur_mm:.3f} mm {_IN[part]}"
        for part in ("centre", "corner") if (blur_mm := record.sure_amount(f"blur_{part}_mm")) is not None
    ]  # fmt: skip
    if told:
        yield f"At the widest stop the lens adds a blur of {' and '.join(told)}."
    softer, left, right = (record.figure(name) for name in ("softer_side", "left_share", "right_share"))
    if softer is not None and left is not None and right is not None and softer.value:
        name, kept, other = ("left", left, right) if softer.value < 0 else ("right", right, left)
        yield (
            f"At the widest stop the {name} side keeps {100 * kept.value:.0f} % of its fine detail, the other side "
            f"{100 * other.value:.0f} %: the lens is off centre or tilted. “Whether the lens stands straight” tells "
            "which."
        )


def _ring_headline(record: SeriesRecord) -> str:
    ring = record.curve("middle")
    if ring is None or ring.best is None:
        return "The sharpest place is not told"
    return f"Sharpest at {ring.best:.3g}{'°' if record.in_degrees else ''} on the ring"


def _stops_headline(record: SeriesRecord) -> str:
    asked = [curve for part in ("centre", "corner") if (curve := record.curve(part)) is not None]
    known = [f"at {format_stop(one.best)} {_IN[one.part]}" for one in asked if one.best is not None]
    unknown = [_IN[one.part] for one in asked if one.best is None]
    said = [f"Sharpest {' and '.join(known)}"] if known else []
    said += [f"{'no' if known else 'No'} stop stands out {' or '.join(unknown)}"] if unknown else []
    return "; ".join(said) or "There is too little detail to compare stops"


def _shift_headline(record: SeriesRecord) -> str:
    plane = record.curve(PLANE)
    points = [] if plane is None else [one for one in plane.points if one.low is not None and one.high is not None]
    moved = [one for one in points if (one.low or 0.0) > 0 or (one.high or 0.0) < 0]
    if not moved:
        wide = max((max(abs(one.low or 0.0), abs(one.high or 0.0)) for one in points), default=0.0)
        return f"No focus shift: within {wide:.1f} mm at every stop"
    worst = max(moved, key=lambda one: abs(one.score))
    side = "back" if worst.score > 0 else "forward"
    return f"Stopped down to {format_stop(worst.at)}, focus moves {abs(worst.score):.1f} mm {side}"


def _shift_sentences(record: SeriesRecord) -> tuple[str, ...]:
    turn = record.curve(TURN)
    if turn is None or not turn.points:
        return ()
    most = max(turn.points, key=lambda one: abs(one.score))
    if abs(most.score) < 0.05:
        return ()
    way = "nearer" if most.score > 0 else "farther"
    return (f"At {format_stop(most.at)} turn the ring {abs(most.score):.1f}° {way} than where it is sharp wide open.",)


def good_from(curve: SeriesCurve) -> float | None:
    """Return the widest stop from which on a part of the picture cannot be told from its best; None without a best.

    Parameters
    ----------
    curve
        Scores of the part of the picture, stop by stop.
    """
    if curve.best is None:
        return None
    for one in sorted(curve.points, key=lambda point: point.at):
        if one.at > curve.best or (one.high is not None and one.high >= 1) or one.at == curve.best:
            return one.at
    return None


def wall_reading(record: SeriesRecord) -> WallReading:
    """Return what pictures of a wall told from how it was kept.

    Parameters
    ----------
    record
        What the series told, as it is kept.
    """
    figures = {one.name: one for one in record.figures}
    told = {
        name: Told(value=figures[name].value, low=figures[name].low, high=figures[name].high)
        for name in _INTERVALS if name in figures
    }  # fmt: skip
    half, soft = (figures[name].value if name in figures else None for name in ("half_depth_mm", "soft_px"))
    return WallReading(
        tilt_deg=told.get("tilt_deg"), tip_deg=told.get("tip_deg"), across_mm=told.get("across_mm"),
        upright_mm=told.get("upright_mm"), curvature_mm=told.get("curvature_mm"), half_depth_mm=half, soft_px=soft,
        pictures=len(record.pictures), warnings=record.warnings,
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class SeriesOffer:
    """What can be kept of a series: what it is called, what it does, and where it is seen then."""

    words: str
    what: str
    path: str


def offer_of(kind: SeriesKind, record: SeriesRecord) -> SeriesOffer | None:
    """Return what a series offers to fill in; None where it tells nothing to keep.

    Parameters
    ----------
    kind
        Kind of series.
    record
        What the series told, as it is kept.
    """
    if kind is SeriesKind.SHIFT and shift_record(record) is not None:
        return SeriesOffer(
            words="Save as the focus shift of this lens", what="focus shift", path="/scale/shift",
        )  # fmt: skip
    if kind is SeriesKind.RING and sighting_of(record) is not None:
        return SeriesOffer(words="Add to the sightings of infinity", what="infinity", path="/scale/infinity")
    if kind is SeriesKind.STOPS and (best_stops(record) != (None, None) or own_blurs(record) != (None, None)):
        said = [
            f"{name} {format_stop(stop)}"
            for name, stop in zip(("sharpest", "corners from"), best_stops(record), strict=True)
            if stop is not None
        ] + [
            f"own blur {place} {mm:.3f} mm"
            for place, mm in zip(("in the middle", "in the corners"), own_blurs(record), strict=True)
            if mm is not None
        ]
        return SeriesOffer(words=f"Save with the lens: {', '.join(said)}", what="sharpest stops", path="")
    return None


def shift_record(record: SeriesRecord) -> FocusShift | None:
    """Return the focus shift a series holds; None where it holds too little of it, or more than a lens has.

    Parameters
    ----------
    record
        What the series told, as it is kept.
    """
    angles = [one.angle_deg for one in record.trials]
    if len({one.stop for one in record.trials}) < _LEAST_STOPS or max(angles) - min(angles) > MAX_SHIFT_DEG:
        return None
    return FocusShift(record.trials)


def sighting_of(record: SeriesRecord) -> Sighting | None:
    """Return where infinity was seen, degrees; None where the subject was nearer or the ring read otherwise.

    Parameters
    ----------
    record
        What the series told, as it is kept.
    """
    ring = record.curve("middle")
    if not record.in_degrees or not record.at_infinity or ring is None or ring.best is None:
        return None
    return Sighting(round(ring.best, 2))


def with_sighting(found: InfinityRecord | None, sighting: Sighting) -> InfinityRecord:
    """Return sightings with one more, the oldest left out where there are too many.

    Parameters
    ----------
    found
        What was sighted before, or None.
    sighting
        Where infinity was seen.
    """
    before = () if found is None else found.sightings
    return InfinityRecord((*before[-(MAX_SIGHTINGS - 1) :], sighting))


def best_stops(record: SeriesRecord) -> tuple[float | None, float | None]:
    """Return the stop at which the middle is sharpest, and the one from which on the corners are; None for not told.

    Parameters
    ----------
    record
        What the series told, as it is kept.
    """
    centre, corner = record.curve("centre"), record.curve("corner")
    return None if centre is None else centre.best, None if corner is None else good_from(corner)


def own_blurs(record: SeriesRecord) -> tuple[float | None, float | None]:
    """Return how much more the lens blurs at its widest stop, in middle and corners, mm; None where not told.

    Parameters
    ----------
    record
        What the series told, as it is kept.
    """
    return record.sure_amount("blur_centre_mm"), record.sure_amount("blur_corner_mm")


def with_best_stops(lens: Lens, record: SeriesRecord) -> Lens:
    """Return a lens with what a series told of its stops; what it did not tell stays.

    Parameters
    ----------
    lens
        The lens.
    record
        What the series told, as it is kept.
    """
    best, corner = best_stops(record)
    middle_mm, corner_mm = own_blurs(record)
    return replace(
        lens, best_stop=best or lens.best_stop, corner_stop=corner or lens.corner_stop,
        wide_blur_mm=lens.wide_blur_mm if middle_mm is None else middle_mm,
        corner_blur_mm=lens.corner_blur_mm if corner_mm is None else corner_mm,
    )  # fmt: skip
