"""What the Log page shows."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from urllib.parse import urlencode

from welotrope.core.review.frame import Frame, Outing
from welotrope.core.review.outcomes import Outcome, Tally, tally
from welotrope.core.review.search import UNCHECKED, FrameSearch
from welotrope.core.units.distance import Unit
from welotrope.store.queries import log, pictures
from welotrope.store.queries.log import After
from welotrope.store.unit_of_work import UnitOfWork
from welotrope.web.rooms.log.frame.context import FrameLine, FrameLists, Options, frame_lines, frame_lists, roll_options
from welotrope.web.rooms.log.frame.form import outing_options
from welotrope.web.rooms.log.outing.bulk import BulkForm

PAGE = 50
MOST_OUTINGS = 40


@dataclass(frozen=True, kw_only=True)
class FrameFilter:
    """What the address asks for: an outing by key, or all of them, and what is looked for as typed."""

    outing: int | None = None
    everything: bool = False
    q: str = ""
    outcome: str = ""
    lens: str = ""

    def query(self, **more: str) -> str:
        """Return it as an address says it."""
        said = {"outing": "all" if self.everything else str(self.outing or ""), "q": self.q, "outcome": self.outcome,
                "lens": self.lens, **more}  # fmt: skip
        return urlencode({name: value for name, value in said.items() if value})


@dataclass(frozen=True, kw_only=True)
class LogPage:
    """The Log room: frames of an outing or of all, their tally, and what can be done to the chosen ones."""

    outings: list[Outing]
    older: int
    outing: Outing | None
    everything: bool
    asked: FrameFilter
    narrowed: bool
    unread: tuple[str, ...]
    tally: Tally | None
    lines: tuple[FrameLine, ...]
    outcomes: tuple[Outcome, ...]
    lenses: list[str]
    next_query: str
    unit: Unit
    unmatched: int
    form: BulkForm
    errors: dict[str, str]
    rolls: Options
    places: Options

    @property
    def results(self) -> tuple[str, ...]:
        """What can be looked for as the result."""
        return (*(outcome.value for outcome in self.outcomes), UNCHECKED)


def asked_of(outing: str, q: str, outcome: str, lens: str) -> FrameFilter:
    """Read what the address asks for."""
    key = int(outing) if outing.isascii() and outing.isdigit() and len(outing) < 19 else None
    return FrameFilter(outing=key, everything=outing == "all", q=q[:200], outcome=outcome[:20], lens=lens[:80])


def place_of(text: str) -> After | None:
    """Read where a page of frames begins, as ``next_query`` says it."""
    moment, _, id = text.partition("~")
    try:
        return After(dt.datetime.fromisoformat(moment), int(id[:19]))
    except ValueError:
        return None


@dataclass(frozen=True, kw_only=True)
class LogData:
    """What is kept of an outing, or of all: the frames a search finds, one page of them and one more, and their marks.

    ``counts`` is None on a further page, and where nothing is shown.
    """

    outings: Sequence[Outing]
    outing: Outing | None
    frames: Sequence[Frame]
    counts: Mapping[Outcome | None, int] | None
    lists: FrameLists
    lenses: list[str]
    unmatched: int


def load_log(uow: UnitOfWork, asked: FrameFilter, search: FrameSearch, after: After | None) -> LogData:
    """Read what is kept of an outing, the newest when none is asked for."""
    outings = log.list_outings(uow)
    wanted = next((one for one in outings if one.id == asked.outing), None)
    newest = outings[0] if outings and asked.outing is None else None
    outing = None if asked.everything else wanted or newest
    shown = outing is not None or (asked.everything and bool(outings))
    scope = None if outing is None else outing.id
    frames: list[Frame] = []
    counts = None
    if shown and after is None:
        frames, counts = log.first_page(uow, scope, search, PAGE + 1)
    elif shown:
        frames = log.page_of_frames(uow, scope, search, after, PAGE + 1)
    return LogData(
        outings=outings, outing=outing, frames=frames, counts=counts, lists=frame_lists(uow, frames[:PAGE]),
        lenses=log.lens_names(uow), unmatched=pictures.count_pictures(uow, None),
    )  # fmt: skip


def log_page(
    data: LogData, asked: FrameFilter, search: FrameSearch, unit: Unit, *, form: BulkForm | None = None,
    errors: dict[str, str] | None = None,
) -> LogPage:  # fmt: skip
    """Return the Log room."""
    outings, outing, frames, counts = data.outings, data.outing, data.frames, data.counts
    scope = None if outing is None else outing.id
    last = frames[PAGE - 1] if len(frames) > PAGE else None
    begins = "" if last is None else f"{last.taken_at.isoformat()}~{last.id}"
    here = FrameFilter(outing=scope, everything=asked.everything, q=asked.q, outcome=search.outcome, lens=search.lens)
    return LogPage(
        outings=list(outings[:MOST_OUTINGS]), older=max(len(outings) - MOST_OUTINGS, 0), outing=outing,
        everything=asked.everything, asked=here, narrowed=search.asks, unread=search.unread,
        tally=None if counts is None else tally(counts),
        lines=frame_lines(data.lists, frames[:PAGE], unit), outcomes=tuple(Outcome), lenses=data.lenses,
        next_query=here.query(after=begins) if begins else "", unit=unit,
        unmatched=data.unmatched, form=form or BulkForm(), errors=errors or {},
        rolls=roll_options(data.lists.rolls), places=outing_options(outings[:MOST_OUTINGS]),
    )  # fmt: skip
