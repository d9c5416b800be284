"""Outings with their frames, found, changed many at once, and as files."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Annotated
from urllib.parse import urlencode

from fastapi import APIRouter, Query
from starlette.requests import Request
from starlette.responses import Response

from welotrope.core.errors import OutOfRangeError, UnreadableError
from welotrope.core.inputs import FormInput, Input, Reader, inputs_of
from welotrope.core.json_values import JsonObject
from welotrope.core.review.frame import (
    AID,
    INSTEAD,
    ISO,
    LIGHT,
    MISS,
    SUPPORT,
    TAGS,
    TECHNIQUE,
    Frame,
    FrameExtras,
    Outing,
    read_tags,
)
from welotrope.core.review.outcomes import Outcome, Tally, tally
from welotrope.core.review.search import UNCHECKED, FrameSearch, read_search
from welotrope.core.units.distance import Unit
from welotrope.store.queries import log, pictures
from welotrope.store.queries.log import After
from welotrope.store.unit_of_work import UnitOfWork
from welotrope.web.forms import TextForm, key_of, required_name
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.request.heavy import exported
from welotrope.web.request.limits import Key
from welotrope.web.request.transactions import MANY
from welotrope.web.rooms.log.frame import FrameLine, FrameLists, Options, frame_lines, frame_lists, roll_options
from welotrope.web.rooms.log.frame_form import outing_options

PAGE = 50
MOST_OUTINGS = 40
AS_IT_IS = ""
NONE_OF = "-"
_CHOICES = (AID, TECHNIQUE, SUPPORT, LIGHT)
MOST_AT_ONCE = 2000


class OutingForm(TextForm):
    """Fields of an outing as typed."""

    name: str = ""
    day: str = ""

    def values(self, today: dt.date) -> tuple[str, dt.date, dict[str, str]]:
        """Return name and day, and an error sentence per field."""
        reader = Reader()
        name = reader.take("name", lambda: required_name(self.name, "outing name", limit=80), "")
        day = reader.take("day", lambda: _day(self.day, today), today)
        return name, day, reader.errors


def _day(text: str, today: dt.date) -> dt.date:
    try:
        day = dt.date.fromisoformat(text) if text else today
    except ValueError:
        raise UnreadableError("day", text, "that is not a date", "Write it like 2026-03-14") from None
    if not 1900 <= day.year <= 2200:
        raise OutOfRangeError("day", text, "out of range", "Write it like 2026-03-14")
    return day


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


class BulkForm(TextForm):
    """What is changed: every field left empty stays as it is; ``-`` takes a choice off."""

    frame: list[str] = []
    every: str = ""
    intent: str = ""
    aid: str = ""
    technique: str = ""
    support: str = ""
    light: str = ""
    iso: str = ""
    instead: str = ""
    miss: str = ""
    tags: str = ""
    untag: str = ""
    outcome: str = ""
    outing: str = ""
    roll: str = ""

    @property
    def ids(self) -> list[int]:
        """Return the keys of the chosen frames."""
        return [id for id in map(key_of, self.frame) if id is not None]

    def choices(self) -> tuple[Input, ...]:
        """Return the choices that can be set, each with a way to leave it and one to take it off."""
        return tuple(
            replace(one, options=((AS_IT_IS, "as it is"), (NONE_OF, "not noted"), *one.options[1:])) for one in _CHOICES
        )

    def asked(self, name: str) -> Input:
        """Return what a field asks for."""
        return next(one for one in inputs_of(FrameExtras) if one.name == name)

    def changes(
        self, *, bare: Unit = Unit.METRIC
    ) -> tuple[JsonObject, tuple[str, ...], tuple[str, ...], dict[str, str]]:
        """Return attributes to set, tags to put on and to take off, and an error sentence per field.

        ``bare`` is the unit of an amount that is written without one.
        """
        reader = Reader()
        said = {name: text for name, text in self.model_dump().items() if isinstance(text, str)}
        typed = FormInput(texts={name: "" if text == NONE_OF else text for name, text in said.items()}, bare=bare)
        set_to: JsonObject = {
            one.name: one.take(reader, typed) for one in (*_CHOICES, ISO, INSTEAD) if said[one.name] != AS_IT_IS
        }
        if self.miss:
            set_to["miss_mm"] = MISS.take(reader, typed)
        if self.outcome:
            set_to["outcome"] = Outcome(self.outcome) if self.outcome in set(Outcome) else None
        for name, text in (("outing_id", self.outing), ("roll_id", self.roll)):
            if text:
                set_to[name] = None if text == NONE_OF else key_of(text)
        none: tuple[str, ...] = ()
        tags = reader.take(TAGS.name, lambda: read_tags(self.tags), none)
        untag = reader.take("untag", lambda: read_tags(self.untag), none)
        return set_to, tags, untag, reader.errors


def changed(frame: Frame, set_to: JsonObject, tags: tuple[str, ...], untag: tuple[str, ...]) -> Frame:
    """Return a frame with the change made."""
    kept = [tag for tag in dict.fromkeys((*frame.tags, *tags)) if tag not in untag]
    return replace(frame, **set_to, tags=tuple(kept))


router = APIRouter()
Words = Annotated[str, Query(max_length=400)]


@router.get("/log")
def show_log(
    context: CurrentContext,
    *,
    outing: Words = "",
    q: Words = "",
    outcome: Words = "",
    lens: Words = "",
    after: Words = "",
) -> Response:
    """Show an outing, the newest first, or what is looked for; further pages of frames as fragments."""
    asked = asked_of(outing, q, outcome, lens)
    search = read_search(asked.q, context.numbers_in, outcome=asked.outcome, lens=asked.lens)
    data = load_log(context.uow, asked, search, place_of(after) if after else None)
    page = log_page(data, asked, search, context.preferences.unit)
    return context.page("log/outing/page.html", page, part="log/outing/rows.html" if after else "log/outing/found.html")


@router.post("/log/change")
def change_many(
    context: CurrentContext, *, outing: Words = "", q: Words = "", outcome: Words = "", lens: Words = ""
) -> Response:
    """Make one change to all chosen frames, or to everything a search finds; undoable as one."""
    asked, form = asked_of(outing, q, outcome, lens), BulkForm.read(context.typed)
    set_to, tags, untag, errors = form.changes(bare=context.numbers_in)
    ids = _chosen(context, asked, form)
    if not ids:
        errors = {**errors, "frame": "Choose frames first: tick the box at the left of each."}
    elif form.intent != "delete" and not (set_to or tags or untag):
        errors = {**errors, "frame": "Nothing to change was said. Choose or write something below."}
    if errors:
        search = read_search(asked.q, context.numbers_in, outcome=asked.outcome, lens=asked.lens)
        data = load_log(context.uow, asked, search, None)
        page = log_page(data, asked, search, context.preferences.unit, form=form, errors=errors)
        return context.page("log/outing/page.html", page, status=422)
    many = f"{len(ids)} frame{'' if len(ids) == 1 else 's'}"
    with context.undoable_transaction(f"Deleted {many}" if form.intent == "delete" else f"Changed {many}"):
        for frame in log.frames_called(context.uow, ids):
            if form.intent == "delete":
                log.delete_frame(context.uow, frame.id)
            else:
                log.change_frame(context.uow, changed(frame, set_to, tags, untag))
    return context.back_to(f"/log?{asked.query()}")


def _chosen(context: RequestContext, asked: FrameFilter, form: BulkForm) -> list[int]:
    """Return the keys of the frames that are meant."""
    if not form.every:
        return form.ids
    search = read_search(asked.q, context.numbers_in, outcome=asked.outcome, lens=asked.lens)
    found = log.page_of_frames(context.uow, asked.outing, search, None, MOST_AT_ONCE + 1)
    if len(found) > MOST_AT_ONCE:
        works = f"Narrow the search to {MOST_AT_ONCE} or fewer"
        raise OutOfRangeError("frames", f"more than {MOST_AT_ONCE}", "that is too many for one change", works)
    return [frame.id for frame in found]


@router.post("/log/outings")
def create_outing(context: CurrentContext) -> Response:
    """Begin an outing."""
    name, day, errors = OutingForm.read(context.typed).values(context.now().date())
    if errors:
        raise UnreadableError("outing", name, next(iter(errors.values())).rstrip("."), "Write a name and a day")
    with context.undoable_transaction(f"Began outing “{name}”"):
        id = log.add_outing(context.uow, name, day)
    return context.back_to(f"/log?outing={id}")


@router.post("/log/outings/{id}")
def update_outing(context: CurrentContext, id: int) -> Response:
    """Rename or re-date an outing."""
    name, day, errors = OutingForm.read(context.typed).values(context.now().date())
    if errors:
        raise UnreadableError("outing", name, next(iter(errors.values())).rstrip("."), "Write a name and a day")
    with context.undoable_transaction(f"Changed outing “{name}”"):
        log.change_outing(context.uow, id, name, day)
    return context.back_to(f"/log?outing={id}")


@router.post("/log/outings/{id}/delete")
def delete_outing(context: CurrentContext, id: int) -> Response:
    """Delete an outing with its frames, undoably."""
    label = "Deleted an outing with its frames"
    if sum(log.outcomes_of(context.uow, id).values()) > MANY:
        context.in_bulk("delete outing", id=id, label=label)
    else:
        with context.undoable_transaction(label):
            log.delete_outing(context.uow, id)
    return context.back_to("/log")


@router.get("/log/export.csv")
def export_csv(request: Request, *, outing: Key | None = None) -> Response:
    """Download the log, or one outing of it, as CSV."""
    name = f"welotrope-log{'' if outing is None else f'-{outing}'}.csv"
    return exported(request, "csv", name, "text/csv; charset=utf-8", outing=outing)
