"""What the page of the pocket file shows."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.review.field_entry import FieldEntry, FieldFrame
from welotrope.core.units.dates import format_date
from welotrope.core.units.distance import Unit, format_distance
from welotrope.core.units.stops import format_stop
from welotrope.interchange.field_log import BadEntry, ReadLog, read_log
from welotrope.store.queries import received
from welotrope.store.unit_of_work import UnitOfWork

_KINDS = {"FieldFrame": "frame", "FieldUndo": "taken back", "FieldMark": "result", "FieldTick": "sheet tick"}
MAX_TEXT = 1_500_000


@dataclass(frozen=True)
class LogLine:
    """An entry of a log: what it is, when, what it says, and whether it was taken over before."""

    kind: str
    at: str
    words: str
    already: bool


@dataclass(frozen=True, kw_only=True)
class PocketPage:
    """The way out, and what a log that came back would bring.

    ``text`` is what was sent, ``said`` what was put right or left out as it was stored.
    """

    setups: int
    text: str = ""
    lines: tuple[LogLine, ...] = ()
    bad: tuple[BadEntry, ...] = ()
    read: bool = False
    said: tuple[str, ...] = ()

    @property
    def fresh(self) -> int:
        """How many entries are new."""
        return sum(not line.already for line in self.lines)


def read_pocket(uow: UnitOfWork, text: str, setups: int, unit: Unit) -> tuple[ReadLog, PocketPage]:
    """Read a log that came back, and the page that shows it."""
    if not text.strip() or len(text) > MAX_TEXT:
        reason = "Nothing was sent: choose the file, or paste its text." if not text.strip() else "That is too long."
        read = ReadLog([], [BadEntry("", reason)])
    else:
        read = read_log(text)
    known = received.became(uow, (entry.key for entry in read.entries))
    lines = tuple(_line(entry, entry.key in known, unit) for entry in read.entries)
    return read, PocketPage(setups=setups, text=text[:MAX_TEXT], lines=lines, bad=tuple(read.bad), read=True)


def _line(entry: FieldEntry, already: bool, unit: Unit) -> LogLine:
    words = ""
    if isinstance(entry, FieldFrame):
        words = f"{entry.lens_name}, {format_distance(entry.distance_mm, unit)} at {format_stop(entry.stop)}"
    return LogLine(_KINDS[type(entry).__name__], f"{format_date(entry.at, '%-d %b %H:%M')}", words, already)
