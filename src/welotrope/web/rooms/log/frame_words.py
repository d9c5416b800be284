"""A logged frame in words, and the set-up it was taken with, as it stood then."""

from __future__ import annotations

from dataclasses import dataclass, replace

from welotrope.core.review.frame import AID, Frame, NewFrame, format_spot
from welotrope.core.units.distance import Unit, format_distance, format_rough, format_span
from welotrope.core.units.exposure import format_shutter
from welotrope.store.queries import kit
from welotrope.store.queries.kit import StoredSetup
from welotrope.store.unit_of_work import UnitOfWork

_AIDS = dict(AID.options)


@dataclass(frozen=True, kw_only=True)
class FrameWords:
    """A frame as it is said: kit and exposure, the sharp range, what was meant, and what was found."""

    taken: str
    range: str
    meant: str
    found: str


def frame_words(frame: Frame, unit: Unit, *, roll: str = "") -> FrameWords:
    """Return a frame in words; ``roll`` is the name of its roll."""
    when = "not dated" if frame.undated else f"{frame.taken_at:%H:%M}"
    film = f"frame {frame.film_frame}" if frame.film_frame else ""
    exposure = (
        f"on {frame.body_name}" if frame.body_name else "", f"roll {roll}" if roll else "", film, when,
        "" if frame.shutter_s is None else format_shutter(frame.shutter_s),
        "" if frame.iso is None else f"ISO {frame.iso}",
    )  # fmt: skip
    return FrameWords(
        taken=", ".join(part for part in exposure if part), range=_range(frame, unit), meant=_meant(frame, unit),
        found=_found(frame, unit),
    )  # fmt: skip


def _range(frame: Frame, unit: Unit) -> str:
    sharp = ""
    if frame.near_mm is not None and frame.far_mm is not None:
        span = format_span(frame.near_mm, frame.far_mm, unit)
        sharp = f"Sharp {span.near} to {span.far}" + (f", {span.depth} deep" if span.depth else "")
    return ", ".join(part for part in (sharp, f"preset {frame.preset_name}" if frame.preset_name else "") if part)


def _meant(frame: Frame, unit: Unit) -> str:
    at = "" if frame.believed_mm is None else f"estimated at {format_distance(frame.believed_mm, unit)}"
    where = format_spot(frame.spot) if frame.spot else ""
    parts = (frame.subject, where, at, _AIDS[frame.aid] if frame.aid in _AIDS and frame.aid else "", frame.technique,
             frame.support, frame.light)  # fmt: skip
    return ", ".join(part for part in parts if part)


def _found(frame: Frame, unit: Unit) -> str:
    off = ""
    if frame.miss_mm is not None and frame.outcome is not None and frame.outcome.is_miss:
        off = f"{format_rough(frame.miss_mm, unit)} {frame.outcome.value}"
    instead = f"{frame.instead} sharp instead" if frame.instead else ""
    return ", ".join(part for part in (instead, off) if part)


def taken_with(uow: UnitOfWork, frame: NewFrame) -> StoredSetup | None:
    """Return the set-up of a frame, a zoom at the focal length it had then; None when it is gone or not known."""
    stored = None if frame.setup_id is None else kit.find_setup(uow, frame.setup_id)
    return None if stored is None else at_focal_of(stored, frame)


def at_focal_of(stored: StoredSetup, frame: NewFrame) -> StoredSetup:
    """Return a set-up at the focal length of a frame, where that is known."""
    if frame.focal_mm is None:
        return stored
    return replace(stored, setup=stored.setup.at_focal(frame.focal_mm))
