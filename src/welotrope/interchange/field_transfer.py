"""Entries of the field page imported into the database: each once, in any order, each with what became of it."""

from __future__ import annotations

import datetime as dt
from contextlib import suppress
from dataclasses import dataclass, replace
from enum import StrEnum

from welotrope.core.errors import WelotropeError
from welotrope.core.review.field_entry import FieldEntry, FieldFrame, FieldMark, FieldTick, FieldUndo, in_order
from welotrope.core.review.frame import NewFrame, frame_at
from welotrope.store.errors import NotFoundError
from welotrope.store.queries import field, kit, log, sheets
from welotrope.store.queries.kit import StoredSetup
from welotrope.store.unit_of_work import UnitOfWork

_FRAME = "frame:"
_EARLIEST, _LATEST = 1990, 2200
_NO_TIME = "The clock it was made by was wrong: it has the time it came. Correct it in the log."


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


def new_among(uow: UnitOfWork, entries: list[FieldEntry]) -> list[FieldEntry]:
    """Return the entries that were not taken over before."""
    known = field.became(uow, (entry.key for entry in entries))
    return [entry for entry in entries if entry.key not in known]


def take_over(
    uow: UnitOfWork, entries: list[FieldEntry], now: dt.datetime, *, offset: dt.timedelta = dt.timedelta()
) -> list[Taken]:
    """Store entries, each for itself; ``offset`` puts a clock right that was wrong.

    A time that makes no sense even then becomes ``now``, and that is said.
    """
    right, untimed = [], set()
    for entry in in_order(entries):
        at = _put_right(entry.at, offset)
        if at is None:
            untimed.add(entry.key)
        right.append(replace(entry, at=at or now))
    return [
        replace(taken, took=Took.MENDED, sentence=f"{taken.sentence} {_NO_TIME}".strip())
        if taken.key in untimed and taken.took in (Took.STORED, Took.MENDED) else taken
        for taken in _Batch(uow, right).take()
    ]  # fmt: skip


def _put_right(at: dt.datetime, offset: dt.timedelta) -> dt.datetime | None:
    """Return a time put right; None for one that lies before cameras had clocks, or far ahead."""
    try:
        right = at + offset
    except OverflowError:
        return None
    return right if _EARLIEST <= right.year <= _LATEST else None


class _Batch:
    """Entries to be imported, and what was read from the database for all of them together."""

    def __init__(self, uow: UnitOfWork, entries: list[FieldEntry]) -> None:
        self.uow, self.entries = uow, entries
        of = {entry.of for entry in entries if isinstance(entry, FieldUndo | FieldMark)}
        self.became = field.became(uow, {*(entry.key for entry in entries), *of})
        self.latest = field.latest(uow, {_topic(entry) for entry in entries})
        self.setups: dict[int, StoredSetup | None] = {}
        self.outings = {one.id for one in log.list_outings(uow)}
        self.days: dict[dt.date, int] = {}

    def take(self) -> list[Taken]:
        """Take every entry that was not taken before."""
        return [self._take_one(entry) for entry in self.entries]

    def _take_one(self, entry: FieldEntry) -> Taken:
        if entry.key in self.became:
            return Taken(entry.key, Took.ALREADY)
        try:
            return self._take(entry)
        except (WelotropeError, OverflowError) as error:
            words = error.sentence if isinstance(error, WelotropeError) else "a number in it is larger than any kept."
            return Taken(entry.key, Took.REFUSED, f"An entry of {entry.at:%H:%M}: {words}")

    def _take(self, entry: FieldEntry) -> Taken:
        match entry:
            case FieldFrame():
                return self._frame(entry)
            case FieldUndo():
                return self._undo(entry)
            case FieldMark():
                return self._mark(entry)
            case FieldTick():
                return self._tick(entry)

    def _remember(self, key: str, at: dt.datetime, what: str) -> None:
        field.remember(self.uow, key, at, what)
        self.became[key] = what
        self.latest[what] = max(at, self.latest.get(what, at))

    def _frame(self, entry: FieldFrame) -> Taken:
        stored, mended = self._setup(entry.setup_id), []
        if stored is None:
            names = f"{entry.lens_name} on {entry.body_name}"
            mended.append(f"its set-up was deleted meanwhile, so it keeps the names {names}")
        outing = entry.outing_id
        if outing is None or outing not in self.outings:
            if outing is not None:
                mended.append("its outing was deleted meanwhile, so it went to that of its day")
            outing = self._outing_of(entry.at.date())
        id = log.add_frame(self.uow, outing, _new_frame(entry, stored), outcome=entry.outcome)
        self._remember(entry.key, entry.at, f"{_FRAME}{id}")
        if not mended:
            return Taken(entry.key, Took.STORED)
        return Taken(entry.key, Took.MENDED, f"The frame of {entry.at:%H:%M}: {'; '.join(mended)}.")

    def _setup(self, id: int) -> StoredSetup | None:
        if id not in self.setups:
            self.setups[id] = kit.find_setup(self.uow, id)
        return self.setups[id]

    def _outing_of(self, day: dt.date) -> int:
        if day not in self.days:
            self.days[day] = log.outing_for(self.uow, day)
        return self.days[day]

    def _frame_id(self, of: str) -> int | None:
        what = self.became.get(of, "")
        return int(what.removeprefix(_FRAME)) if what.startswith(_FRAME) else None

    def _undo(self, entry: FieldUndo) -> Taken:
        id = self._frame_id(entry.of)
        if id is not None:
            with suppress(NotFoundError):  # deleted on the computer meanwhile
                log.delete_frame(self.uow, id)
            field.forget_frame(self.uow, entry.of)
            self.became[entry.of] = field.UNDONE
        elif entry.of not in self.became:
            # What is taken back before it came is not stored when it comes.
            self._remember(entry.of, entry.at, field.UNDONE)
        self._remember(entry.key, entry.at, _topic(entry))
        return Taken(entry.key, Took.STORED)

    def _mark(self, entry: FieldMark) -> Taken:
        id = self._frame_id(entry.of)
        if id is None:
            if entry.of in self.became:
                return Taken(entry.key, Took.REFUSED, "A mark was for a frame that was taken back.")
            return Taken(entry.key, Took.WAITING, "A mark is for a frame that has not come yet.")
        late = self._is_late(entry)
        self._remember(entry.key, entry.at, _topic(entry))
        if late:
            return Taken(entry.key, Took.ALREADY)
        try:
            log.mark_frame(self.uow, id, entry.outcome)
        except NotFoundError:
            return Taken(entry.key, Took.REFUSED, "A mark was for a frame that was deleted meanwhile.")
        return Taken(entry.key, Took.STORED)

    def _tick(self, entry: FieldTick) -> Taken:
        try:
            if not self._is_late(entry):
                sheets.tick(self.uow, entry.setup_id, entry.outing_id, entry.line, done=entry.done)
        except NotFoundError:
            return Taken(entry.key, Took.REFUSED, "A tick was for a set-up that was deleted meanwhile.")
        self._remember(entry.key, entry.at, _topic(entry))
        return Taken(entry.key, Took.STORED)

    def _is_late(self, entry: FieldEntry) -> bool:
        """Whether a later entry on the same thing was taken already."""
        latest = self.latest.get(_topic(entry))
        return latest is not None and latest > entry.at


def _topic(entry: FieldEntry) -> str:
    """Return what an entry is about, as the database has it; a frame is known by what it became."""
    match entry:
        case FieldUndo():
            return f"undo:{entry.of}"
        case FieldMark():
            return f"mark:{entry.of}"
        case FieldTick():
            return f"tick:{entry.setup_id}:{entry.outing_id}:{entry.line}"
    return _FRAME


def _new_frame(entry: FieldFrame, stored: StoredSetup | None) -> NewFrame:
    """Return the frame as calculated now, or as it was read in the field when its set-up is gone."""
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
