"""What the pages of a frame show."""

from __future__ import annotations

from dataclasses import dataclass, field

from welotrope.core.plan.preset import Preset
from welotrope.core.review.frame import Frame, Outing
from welotrope.core.review.outcomes import Outcome, Tally, tally
from welotrope.core.units.distance import Unit
from welotrope.core.units.stops import stops_between
from welotrope.store.book import Book
from welotrope.store.queries import log
from welotrope.store.queries.kit import StoredSetup
from welotrope.web.rooms.log.frame.form import FrameForm
from welotrope.web.state.ring_state import RingState


@dataclass(frozen=True)
class FrameRowView:
    """One frame of the list with the outing's tally, for a fragment."""

    frame: Frame
    outcomes: tuple[Outcome, ...]
    tally: Tally
    unit: Unit


@dataclass(frozen=True, kw_only=True)
class NewFramePage:
    """The form that logs a frame from where the ring stands."""

    form: FrameForm
    stored: StoredSetup
    outings: list[Outing]
    errors: dict[str, str] = field(default_factory=dict)
    back: str = "/scale"


@dataclass(frozen=True)
class FramePage:
    """The form that changes a logged frame; its setting can be worked out again while its set-up is there."""

    frame: Frame
    form: FrameForm
    errors: dict[str, str]
    unit: Unit
    has_setup: bool


def frame_row(book: Book, id: int, unit: Unit) -> FrameRowView:
    """Gather one frame's row."""
    frame = log.get_frame(book, id)
    return FrameRowView(frame, tuple(Outcome), tally(log.outcomes_of(book, frame.outing_id)), unit)


def preset_at(state: RingState, saved: list[Preset]) -> str:
    """Return the preset the ring stands on, to a hundredth of its distance, or ''.

    At another stop it is credited with what was changed: “quay, opened to 5.6”.
    """
    near = [
        preset for preset in saved
        if preset.distance_mm == state.distance_mm or abs(preset.distance_mm / state.distance_mm - 1) < 0.01
    ]  # fmt: skip
    if not near:
        return ""
    preset = min(near, key=lambda preset: abs(stops_between(preset.stop, state.stop)))
    if preset.stop == state.stop:
        return preset.name
    way = "opened" if state.stop < preset.stop else "stopped down"
    return f"{preset.name}, {way} to {state.stop:g}"
