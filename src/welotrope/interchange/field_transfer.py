"""Entries of the field taken over into a book: each once, whatever order they come in, each with what became of it."""

from __future__ import annotations

import datetime as dt
from contextlib import suppress
from dataclasses import dataclass, field, replace
from enum import StrEnum

from welotrope.core.review.field_entry import FieldEntry, FieldFrame, FieldMark, FieldTick, FieldUndo, in_order
from welotrope.core.review.frame import NewFrame, frame_at
from welotrope.store.book import Book
from welotrope.store.errors import NotFoundError
from welotrope.store.queries import kit, log, received, sheets
from welotrope.store.queries.kit import StoredSetup


class Took(StrEnum):
    """What became of an entry."""

    STORED = "stored"
    ALREADY = "already"
    MENDED = "mended"
    WAITING = "waiting"
    REFUSED = "refused"


@dataclass(frozen=True)
class Taken:
    """What became of an entry, by its key, and a sentence where something was mended or could not be."""

    key: str
    took: Took
    sentence: str = ""


@dataclass(frozen=True)
class _Kept:
    """What was read of the book so far: set-ups by key, None for one that is gone, and outings by key and day."""

    setups: dict[int, StoredSetup | None]
    outings: set[int]
    days: dict[dt.date, int] = field(default_factory=dict)

    def of_day(self, book: Book, day: dt.date) -> int:
        """Return the outing of a day, asked for once."""
        if day not in self.days:
            self.days[day] = log.outing_for(book, day)
        return self.days[day]


def take_over(book: Book, entries: list[FieldEntry], offset: dt.timedelta = dt.timedelta()) -> list[Taken]:
    """Store entries; ``offset`` puts a clock right that was wrong."""
    known = received.became(book, (entry.key for entry in entries))
    kept = _Kept(setups={}, outings={one.id for one in log.list_outings(book)})
    results = []
    for entry in in_order(entries):
        if entry.key in known:
            results.append(Taken(entry.key, Took.ALREADY))
            continue
        moved = replace(entry, at=entry.at + offset)
        result = _take(book, moved, kept)
        if result.took in (Took.STORED, Took.MENDED):
            known[entry.key] = "now"
        results.append(result)
    return results


def _take(book: Book, entry: FieldEntry, kept: _Kept) -> Taken:
    match entry:
        case FieldFrame():
            return _frame(book, entry, kept)
        case FieldUndo():
            return _undo(book, entry)
        case FieldMark():
            return _mark(book, entry)
        case FieldTick():
            return _tick(book, entry)


def _frame(book: Book, entry: FieldFrame, kept: _Kept) -> Taken:
    if entry.setup_id not in kept.setups:
        kept.setups[entry.setup_id] = kit.find_setup(book, entry.setup_id)
    stored, mended = kept.setups[entry.setup_id], []
    if stored is None:
        mended.append(f"its set-up was deleted meanwhile, so it keeps the names {entry.lens_name} on {entry.body_name}")
    outing = entry.outing_id
    if outing is None or outing not in kept.outings:
        if outing is not None:
            mended.append("its outing was deleted meanwhile, so it went to that of its day")
        outing = kept.of_day(book, entry.at.date())
    id = log.add_frame(book, outing, _new_frame(entry, stored), entry.outcome)
    received.remember(book, entry.key, entry.at, f"frame:{id}")
    if not mended:
        return Taken(entry.key, Took.STORED)
    return Taken(entry.key, Took.MENDED, f"The frame of {entry.at:%H:%M}: {'; '.join(mended)}.")


def _new_frame(entry: FieldFrame, stored: StoredSetup | None) -> NewFrame:
    """Return the frame as the book reckons it now, or as it was read in the field when its set-up is gone."""
    if stored is None:
        return NewFrame(
            setup_id=None, body_name=entry.body_name, lens_name=entry.lens_name, focal_mm=entry.focal_mm,
            blur_mm=entry.blur_mm, stop=entry.stop, distance_mm=entry.distance_mm, angle_deg=entry.angle_deg,
            near_mm=entry.near_mm, far_mm=entry.far_mm, taken_at=entry.at, preset_name=entry.preset_name,
            note=entry.note, film_frame=entry.film_frame,
        )  # fmt: skip
    setup = stored.setup.at_focal(entry.focal_mm)
    angle = setup.ring(entry.stop).setting_for(entry.distance_mm)
    frame = frame_at(stored.id, setup, angle, entry.stop, entry.at)
    return replace(frame, preset_name=entry.preset_name, note=entry.note, film_frame=entry.film_frame)


def _frame_key(book: Book, of: str) -> int | None:
    what = received.became(book, [of]).get(of, "")
    return int(what.removeprefix("frame:")) if what.startswith("frame:") else None


def _undo(book: Book, entry: FieldUndo) -> Taken:
    id = _frame_key(book, entry.of)
    if id is not None:
        with suppress(NotFoundError):  # deleted at the desk meanwhile
            log.delete_frame(book, id)
        received.forget_frame(book, entry.of)
    elif not received.became(book, [entry.of]):
        # What is taken back before it came is not stored when it comes.
        received.remember(book, entry.of, entry.at, received.UNDONE)
    received.remember(book, entry.key, entry.at, f"undo:{entry.of}")
    return Taken(entry.key, Took.STORED)


def _mark(book: Book, entry: FieldMark) -> Taken:
    id = _frame_key(book, entry.of)
    if id is None:
        if received.became(book, [entry.of]):
            return Taken(entry.key, Took.REFUSED, "A mark was for a frame that was taken back.")
        return Taken(entry.key, Took.WAITING, "A mark is for a frame that has not come yet.")
    what = f"mark:{entry.of}"
    latest = received.latest(book, what)
    received.remember(book, entry.key, entry.at, what)
    if latest is not None and latest > entry.at:
        return Taken(entry.key, Took.ALREADY)
    try:
        log.mark_frame(book, id, entry.outcome)
    except NotFoundError:
        return Taken(entry.key, Took.REFUSED, "A mark was for a frame that was deleted meanwhile.")
    return Taken(entry.key, Took.STORED)


def _tick(book: Book, entry: FieldTick) -> Taken:
    what = f"tick:{entry.setup_id}:{entry.outing_id}:{entry.line}"
    latest = received.latest(book, what)
    try:
        if latest is None or latest <= entry.at:
            sheets.tick(book, entry.setup_id, entry.outing_id, entry.line, done=entry.done)
    except NotFoundError:
        return Taken(entry.key, Took.REFUSED, "A tick was for a set-up that was deleted meanwhile.")
    received.remember(book, entry.key, entry.at, what)
    return Taken(entry.key, Took.STORED)
