"""What a series offers to fill in of lens and ring."""

from __future__ import annotations

from dataclasses import dataclass, replace

from welotrope.core.kit.lens import Lens
from welotrope.core.ring.focus_shift import MAX_SHIFT_DEG, FocusShift
from welotrope.core.ring.true_infinity import MAX_SIGHTINGS, InfinityRecord, Sighting
from welotrope.core.testshot.series_record import SeriesRecord
from welotrope.core.testshot.series_words import SeriesKind, good_from
from welotrope.core.units.stops import format_stop

_LEAST_STOPS = 2


@dataclass(frozen=True, kw_only=True)
class SeriesOffer:
    """What can be kept of a series: what it is called, what it does, and where it is seen then."""

    words: str
    what: str
    path: str


def offer_of(kind: SeriesKind, record: SeriesRecord) -> SeriesOffer | None:
    """Return what a series offers to fill in; None where it tells nothing to keep."""
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
    """Return the focus shift a series holds; None where it holds too little of it, or more than a lens has."""
    angles = [one.angle_deg for one in record.trials]
    if len({one.stop for one in record.trials}) < _LEAST_STOPS or max(angles) - min(angles) > MAX_SHIFT_DEG:
        return None
    return FocusShift(record.trials)


def sighting_of(record: SeriesRecord) -> Sighting | None:
    """Return where infinity was seen, degrees; None where the subject was nearer or the ring read otherwise."""
    ring = record.curve("middle")
    if not record.in_degrees or not record.at_infinity or ring is None or ring.best is None:
        return None
    return Sighting(round(ring.best, 2))


def with_sighting(found: InfinityRecord | None, sighting: Sighting) -> InfinityRecord:
    """Return sightings with one more, the oldest left out where there are too many."""
    before = () if found is None else found.sightings
    return InfinityRecord((*before[-(MAX_SIGHTINGS - 1) :], sighting))


def best_stops(record: SeriesRecord) -> tuple[float | None, float | None]:
    """Return the stop at which the middle is sharpest, and the one from which on the corners are; None for not told."""
    centre, corner = record.curve("centre"), record.curve("corner")
    return None if centre is None else centre.best, None if corner is None else good_from(corner)


def own_blurs(record: SeriesRecord) -> tuple[float | None, float | None]:
    """Return how much more the lens blurs at its widest stop, in middle and corners, mm; None where not told."""
    return record.sure_amount("blur_centre_mm"), record.sure_amount("blur_corner_mm")


def with_best_stops(lens: Lens, record: SeriesRecord) -> Lens:
    """Return a lens with what a series told of its stops; what it did not tell stays."""
    best, corner = best_stops(record)
    middle_mm, corner_mm = own_blurs(record)
    return replace(
        lens, best_stop=best or lens.best_stop, corner_stop=corner or lens.corner_stop,
        wide_blur_mm=lens.wide_blur_mm if middle_mm is None else middle_mm,
        corner_blur_mm=lens.corner_blur_mm if corner_mm is None else corner_mm,
    )  # fmt: skip
