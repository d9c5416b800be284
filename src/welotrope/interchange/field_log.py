"""The log of the field as JSON (``welotrope-field-log``, version 1), entry by entry, so that each bad one is named."""

from __future__ import annotations

import datetime as dt
import json
import math
from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError, field_validator, model_validator

from welotrope.core.review.field_entry import FieldEntry, FieldFrame, FieldMark, FieldTick, FieldUndo
from welotrope.core.review.frame import NOTE_LIMIT
from welotrope.core.review.outcomes import Outcome
from welotrope.core.units.distance import MAX_DISTANCE_MM
from welotrope.core.units.text import cleaned
from welotrope.interchange.problems import sentence_of

FORMAT, VERSION = "welotrope-field-log", 1
MAX_ENTRIES = 2000

Key = Annotated[str, Field(min_length=8, max_length=64, pattern=r"^[0-9A-Za-z_-]+$")]
Row = Annotated[int, Field(ge=1, lt=2**63)]
Length = Annotated[float, Field(gt=0, le=1e12, allow_inf_nan=False)]  # beyond the farthest distance is infinity
Name = Annotated[str, Field(max_length=80)]


class _Entry(BaseModel):
    model_config = ConfigDict(extra="ignore")

    key: Key
    at: dt.datetime

    @field_validator("at")
    @classmethod
    def _local(cls, value: dt.datetime) -> dt.datetime:
        if value.tzinfo is not None:
            raise ValueError("write the local time without a zone, like 2026-03-14T15:30:00")
        return value.replace(microsecond=0)  # the year may be any: a clock may be wrong by decades


class _Frame(_Entry):
    kind: Literal["frame"]
    setup: Row
    zoom: Annotated[float, Field(gt=0, le=5000)] | None = None
    outing: Row | None = None
    body: Name
    lens: Name
    focal_mm: Annotated[float, Field(ge=1, le=10_000)]
    blur_mm: Annotated[float, Field(gt=0, le=5)]
    stop: Annotated[float, Field(ge=0.5, le=256)]
    distance_mm: Length | None
    angle_deg: Annotated[float, Field(ge=-720, le=2000)]
    near_mm: Length | None
    far_mm: Length | None
    preset: Name = ""
    note: Annotated[str, Field(max_length=NOTE_LIMIT)] = ""
    film_frame: Annotated[str, Field(max_length=12)] = ""
    outcome: Outcome | None = None

    def entry(self) -> FieldFrame:
        """Return it as a core value; null distances are infinite."""
        far, near, at = (_distance(mm) for mm in (self.far_mm, self.near_mm, self.distance_mm))
        return FieldFrame(
            key=self.key, at=self.at, setup_id=self.setup, zoom_mm=self.zoom, outing_id=self.outing,
            body_name=cleaned(self.body), lens_name=cleaned(self.lens), focal_mm=self.focal_mm, blur_mm=self.blur_mm,
            stop=self.stop, distance_mm=at, angle_deg=self.angle_deg, near_mm=min(near, at), far_mm=max(far, at),
            preset_name=cleaned(self.preset), note=cleaned(self.note), film_frame=cleaned(self.film_frame),
            outcome=self.outcome,
        )  # fmt: skip


def _distance(mm: float | None) -> float:
    return math.inf if mm is None or mm > MAX_DISTANCE_MM else mm


class _Undo(_Entry):
    kind: Literal["undo"]
    of: Key

    @model_validator(mode="after")
    def _of_another(self) -> _Undo:
        if self.of == self.key:
            raise ValueError("an entry cannot take itself back")
        return self

    def entry(self) -> FieldUndo:
        """Return it as a core value."""
        return FieldUndo(key=self.key, at=self.at, of=self.of)


class _Mark(_Entry):
    kind: Literal["mark"]
    of: Key
    outcome: Outcome | None = None

    def entry(self) -> FieldMark:
        """Return it as a core value."""
        return FieldMark(key=self.key, at=self.at, of=self.of, outcome=self.outcome)


class _Tick(_Entry):
    kind: Literal["tick"]
    setup: Row
    outing: Annotated[int, Field(ge=0, lt=2**63)] = 0
    line: Annotated[str, Field(min_length=1, max_length=80)]
    done: bool

    def entry(self) -> FieldTick:
        """Return it as a core value."""
        return FieldTick(
            key=self.key, at=self.at, setup_id=self.setup, outing_id=self.outing, line=self.line, done=self.done
        )


_ANY: TypeAdapter[_Frame | _Undo | _Mark | _Tick] = TypeAdapter(
    Annotated[_Frame | _Undo | _Mark | _Tick, Field(discriminator="kind")]
)


@dataclass(frozen=True)
class BadEntry:
    """An entry that cannot be taken: its key, '' when it has none, and why."""

    key: str
    sentence: str


@dataclass(frozen=True)
class ReadLog:
    """The entries of a log that can be taken, and those that cannot."""

    entries: list[FieldEntry]
    bad: list[BadEntry]


def read_log(text: str) -> ReadLog:
    """Read the text of a field log."""
    try:
        data = json.loads(text.strip("\ufeff \r\n"))
    except (ValueError, RecursionError) as error:
        return ReadLog([], [BadEntry("", f"This is not a field log: {error}.")])
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        return ReadLog([], [BadEntry("", f'This is not a field log: it must be an object with "format": "{FORMAT}".')])
    if data.get("version") != VERSION:
        version = str(data.get("version"))[:20]
        return ReadLog([], [BadEntry("", f"This log is of version {version}; this program reads version {VERSION}.")])
    return read_entries(data.get("entries"))


def read_entries(items: object) -> ReadLog:
    """Read entries one by one."""
    if not isinstance(items, list):
        return ReadLog([], [BadEntry("", "The part “entries” must be a list.")])
    if len(items) > MAX_ENTRIES:
        return ReadLog([], [BadEntry("", f"There are more than {MAX_ENTRIES} entries; send them in parts.")])
    good: list[FieldEntry] = []
    bad: list[BadEntry] = []
    for number, item in enumerate(items, start=1):
        try:
            if not _is_text(item):
                raise ValueError("it holds half a character; leave it out")
            good.append(_ANY.validate_python(item).entry())
        except (ValueError, RecursionError) as error:
            key = item.get("key", "") if isinstance(item, dict) else ""
            words = _sentence(error) if isinstance(error, ValidationError) else f"{error}."
            bad.append(BadEntry(cleaned(str(key))[:64], f"Entry {number}: {cleaned(words)}"))
    return ReadLog(good, bad)


def _is_text(item: object) -> bool:
    """Whether all text in an entry can be stored: JSON lets half a character pass."""
    try:
        json.dumps(item, ensure_ascii=False).encode("utf-8")
    except UnicodeEncodeError:
        return False
    return True


def _sentence(error: ValidationError) -> str:
    first = error.errors()[0]
    place = ".".join(str(part) for part in first["loc"][1:]) or "the entry"
    return sentence_of(first, place)
