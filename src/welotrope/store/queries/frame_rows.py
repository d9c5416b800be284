"""Frames as rows, and back."""

from __future__ import annotations

from welotrope.core.json_values import JsonObject
from welotrope.core.review.frame import Frame, NewFrame
from welotrope.core.review.intention import Spot
from welotrope.core.review.outcomes import Outcome
from welotrope.core.review.search import words_of
from welotrope.store.models import FrameRow

_PLAIN = tuple(name for name in NewFrame.__dataclass_fields__ if name not in ("spot", "tags"))
_OUTCOMES = {outcome.value for outcome in Outcome}


def columns_of(frame: NewFrame) -> JsonObject:
    """Return what a frame fills of its row."""
    spot = None if frame.spot is None else [frame.spot.x, frame.spot.y]
    return {name: getattr(frame, name) for name in _PLAIN} | {"spot": spot, "tags": list(frame.tags)}


def frame_of(row: FrameRow) -> Frame:
    """Return the frame of a row."""
    return Frame(
        **{name: getattr(row, name) for name in _PLAIN}, spot=_spot(row.spot),
        tags=tuple(tag for tag in row.tags if isinstance(tag, str)) if isinstance(row.tags, list) else (),
        id=row.id, outing_id=row.outing_id,
        outcome=Outcome(row.outcome) if row.outcome in _OUTCOMES else None,
    )  # fmt: skip


def _spot(stored: list[float] | None) -> Spot | None:
    """Return a place in the picture; None for none, or for what is no place: that takes no frame along."""
    try:
        return Spot(*stored) if stored else None
    except (TypeError, ValueError):
        return None


def put_words(row: FrameRow, roll: str) -> None:
    """Write down what a frame is found by; ``roll`` is the name of its roll."""
    row.words = words_of(frame_of(row), roll=roll)
