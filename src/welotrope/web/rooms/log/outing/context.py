"""What the Log pages show."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.review.frame import Frame, Outing
from welotrope.core.review.outcomes import Outcome, Tally, tally
from welotrope.core.units.distance import Unit
from welotrope.store.book import Book
from welotrope.store.queries import log

PAGE = 50


@dataclass(frozen=True, kw_only=True)
class LogPage:
    """The Log room: an outing with its tally and one page of frames."""

    outings: list[Outing]
    outing: Outing | None
    tally: Tally | None
    frames: list[Frame]
    outcomes: tuple[Outcome, ...]
    next_offset: int | None
    unit: Unit


def log_page(book: Book, outing_id: int | None, offset: int, unit: Unit) -> LogPage:
    """Gather the Log room for an outing, the newest when none is asked for."""
    outings = log.list_outings(book)
    outing = next((o for o in outings if o.id == outing_id), outings[0] if outings and outing_id is None else None)
    if outing is None:
        return LogPage(
            outings=outings, outing=None, tally=None, frames=[], outcomes=tuple(Outcome), next_offset=None, unit=unit
        )
    frames = log.page_of_frames(book, outing.id, offset, PAGE + 1)
    more = offset + PAGE if len(frames) > PAGE else None
    counts = tally(log.outcomes_of(book, outing.id))
    return LogPage(
        outings=outings, outing=outing, tally=counts, frames=frames[:PAGE], outcomes=tuple(Outcome), next_offset=more,
        unit=unit,
    )  # fmt: skip
