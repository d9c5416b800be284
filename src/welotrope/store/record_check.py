"""Every record of a database that comes from elsewhere, read once before it is taken: an archive, or a backup.

Columns must hold what their type says, values lie within the rules, and whole records go through the readers that
every page uses. What is wrong is told by table, record and field.
"""

from __future__ import annotations

import datetime as dt
import json
import math
import sqlite3
from collections.abc import Callable, Iterator
from pathlib import Path

from sqlalchemy import JSON, Boolean, Column, Date, DateTime, Float, Integer, Table, create_engine, inspect, select
from sqlalchemy.orm import Session

from welotrope.core.errors import WelotropeError
from welotrope.core.json_values import JsonObject
from welotrope.core.units.text import cleaned
from welotrope.store import files
from welotrope.store.errors import why_unreadable
from welotrope.store.models import (
    AdapterRow,
    AttachmentRow,
    Base,
    BodyRow,
    DrillRow,
    FrameRow,
    LensRow,
    MeasurementRow,
    MountRow,
    PictureRow,
    PresetRow,
    RollRow,
    SetupRow,
    ShotRow,
    TrialRow,
)  # fmt: skip
from welotrope.store.outside import is_one_name
from welotrope.store.queries.kit import body_of, lens_of, stored_setup
from welotrope.store.queries.log import frame_of
from welotrope.store.queries.mounts import adapter_of, attachment_of, mount_of
from welotrope.store.queries.pictures import picture_of
from welotrope.store.queries.practice import drill_of, trial_of
from welotrope.store.queries.ring_records import preset_of, record_of
from welotrope.store.queries.rolls import roll_of
from welotrope.store.queries.test_shots import kept_of

MOST_NAMED = 20
_LONGEST_TEXT, _LONGEST_JSON, _LONGEST_NAME = 20_000, 4_000_000, 200
# Kit that cannot be read is shown as such by the Kit room, which offers to delete it: a backup may hold it.
SHOWN_AS_BROKEN = {"body", "lens", "setup", "mount", "adapter", "attachment", "measurement", "preset"}
_READERS: dict[type[Base], Callable[..., object]] = {
    MountRow: mount_of, AdapterRow: adapter_of, AttachmentRow: attachment_of, BodyRow: body_of, LensRow: lens_of,
    SetupRow: stored_setup, MeasurementRow: record_of, PresetRow: preset_of, FrameRow: frame_of, RollRow: roll_of,
    TrialRow: trial_of, DrillRow: drill_of, PictureRow: picture_of,
    ShotRow: kept_of,
}  # fmt: skip
Rule = Callable[..., bool]  # each of the values its column holds


def _positive(value: float) -> bool:
    return bool(0 < value < math.inf)


def _stop(value: float) -> bool:
    return bool(0.5 <= value <= 128)


def _distance(value: float) -> bool:
    return bool(value > 0)


def _finite(value: float) -> bool:
    return math.isfinite(value)


def _texts(value: object) -> bool:
    return isinstance(value, list) and len(value) <= 1000 and all(isinstance(one, str) for one in value)


def _spot(value: object) -> bool:
    return (
        isinstance(value, list) and len(value) == 2
        and all(isinstance(one, int | float) and not isinstance(one, bool) and 0 <= one <= 1 for one in value)
    )  # fmt: skip


def _size(value: int) -> bool:
    return bool(0 < value <= 200_000)


def _bytes(value: int) -> bool:
    return bool(0 <= value < 2**53)


def _name(value: str) -> bool:
    return len(value) <= _LONGEST_NAME and value == cleaned(value)


def _map(value: JsonObject) -> bool:
    """Whether what was measured in a picture is what the pages draw."""
    rows, columns, blur = value["rows"], value["cols"], value["blur_px"]
    number: Rule = lambda one: isinstance(one, int | float) and math.isfinite(one)  # noqa: E731
    return (
        isinstance(rows, int) and isinstance(columns, int) and 0 < rows <= 200 and 0 < columns <= 200
        and number(value["cell_px"]) and value["cell_px"] > 0
        and len(blur) == rows and all(len(row) == columns for row in blur)
        and all(one is None or number(one) for row in blur for one in row)
        and len(value["places"]) <= 100
        and all(set(place) == {"x", "y", "score", "blur_px"} and all(map(number, place.values()))
                for place in value["places"])
    )  # fmt: skip


# What must hold of a column beyond its type, and how that is said.
_RULES: dict[str, dict[str, tuple[Rule, str]]] = {
    "frame": {
        **dict.fromkeys(("focal_mm", "blur_mm", "shutter_s", "iso"), (_positive, "must be more than 0")),
        "stop": (_stop, "is no f-number"),
        **dict.fromkeys(("distance_mm", "near_mm", "far_mm", "believed_mm"), (_distance, "must be more than 0")),
        **dict.fromkeys(("angle_deg", "miss_mm"), (_finite, "must be a number")),
        "tags": (_texts, "must be words"), "spot": (_spot, "must be two shares of the picture, 0 to 1"),
    },
    "preset": {
        "subjects": (_texts, "must be words"), "name": (_name, "is no name"),
        "distance_mm": (_distance, "must be more than 0"), "stop": (_stop, "is no f-number"),
    },
    "slot": {"number": (lambda value: 1 <= value <= 50, "is no number of a slot")},
    "trial": {"stop": (_stop, "is no f-number"), "error_deg": (_finite, "must be a number")},
    "picture": {
        "name": (is_one_name, "must be the name of one file"), "bytes": (_bytes, "is no length of a file"),
        "width_px": (_size, "is no number of pixels"), "height_px": (_size, "is no number of pixels"),
        "clock_s": (lambda value: abs(value) <= 1e9, "is no offset of a clock"),
        "sha256": (files.is_hash, "is no hash"),
    },
    "picture_map": {"data": (_map, "is no map of sharpness")},
    "picture_import": {"refused": (_texts, "must be sentences")},
    "file": {
        "sha256": (files.is_hash, "is no hash"), "bytes": (_bytes, "is no length of a file"),
        "media_type": (lambda value: value in files.SUFFIXES, "is no kind of file that is kept"),
    },
    "eye_constant": {"value": (_finite, "must be a number")},
    **{table: {"name": (_name, "is no name")} for table in ("body", "lens", "mount", "adapter", "outing", "roll")},
}  # fmt: skip


def check_records(path: Path, *, shown_as_broken: bool = False) -> list[str]:
    """Return a sentence for each record of a database of the present schema that cannot be taken, at most twenty.

    With ``shown_as_broken`` kit whose record cannot be read is let pass, as the application shows it for what it is.
    """
    problems: list[str] = []
    connection = sqlite3.connect(f"file:{path}?mode=ro", uri=True)
    try:
        for table in Base.metadata.sorted_tables:
            problems += _column_problems(connection, table, MOST_NAMED - len(problems))
    finally:
        connection.close()
    # What does not hold what its column says cannot be read as a record.
    return problems or list(_record_problems(path, shown_as_broken=shown_as_broken))[:MOST_NAMED]


def _column_problems(connection: sqlite3.Connection, table: Table, most: int) -> list[str]:
    names = [column.name for column in table.columns]
    quoted = ", ".join(f'"{name}"' for name in names)
    connection.text_factory = bytes
    problems: list[str] = []
    for row in connection.execute(f'SELECT {quoted} FROM "{table.name}"'):
        key = row[0].decode(errors="replace") if isinstance(row[0], bytes) else row[0]
        for column, value in zip(table.columns, row, strict=True):
            why = _why_not(table.name, column, value)
            if why is not None:
                said = cleaned(value.decode(errors="replace") if isinstance(value, bytes) else str(value))[:40]
                which = f"{table.name}, record {cleaned(str(key))[:20]}, {column.name}"
                problems.append(f"{which}: read “{said}”; it {why}.")
        if len(problems) >= most:
            break
    return problems[: max(most, 0)]


def _why_not(table: str, column: Column[object], value: object) -> str | None:
    """Return why a value does not belong into a column, as the end of a sentence; None if it does."""
    if value is None:
        return None if column.nullable else "must not be empty"
    try:
        read = _as_typed(column, value)
    except (ValueError, TypeError, RecursionError):
        return f"is no {_KINDS.get(type(column.type), 'text')}"
    rule, words = _RULES.get(table, {}).get(column.name, (None, ""))
    try:
        return None if rule is None or read is None or rule(read) else words
    except (ValueError, TypeError, KeyError, AttributeError):
        return words


_KINDS = {
    Integer: "whole number", Float: "number", Boolean: "yes or no", DateTime: "time", Date: "day", JSON: "JSON",
}  # fmt: skip


def _as_typed(column: Column[object], value: object) -> object:
    """Return a stored value as its column's type has it; raises ValueError for what is none."""
    kind = column.type
    if isinstance(kind, Boolean | Integer | Float):
        if not isinstance(value, int) and not (isinstance(kind, Float) and isinstance(value, float)):
            raise ValueError(value)
        if (isinstance(kind, Boolean) and value not in (0, 1)) or value != value:
            raise ValueError(value)
        return value
    if not isinstance(value, bytes):
        raise ValueError(value)
    text = value.decode("utf-8")
    if "\0" in text or len(text) > (_LONGEST_JSON if isinstance(kind, JSON) else _LONGEST_TEXT):
        raise ValueError(text)
    if isinstance(kind, DateTime):
        found = dt.datetime.fromisoformat(text)
        if found.tzinfo is not None:
            raise ValueError(text)
        return found
    if isinstance(kind, Date):
        return dt.date.fromisoformat(text)
    return json.loads(text, parse_constant=_constant) if isinstance(kind, JSON) else text


def _constant(text: str) -> float:
    """Return an infinity, which readings may hold; nothing else that is no number."""
    if text == "NaN":
        raise ValueError(text)
    return float(text)


def _record_problems(path: Path, *, shown_as_broken: bool) -> Iterator[str]:
    engine = create_engine(f"sqlite:///{path}")
    try:
        with Session(engine) as session:
            for row_class, read in _READERS.items():
                if shown_as_broken and row_class.__tablename__ in SHOWN_AS_BROKEN:
                    continue
                for row in session.scalars(select(row_class)).yield_per(200):
                    why = why_unreadable(row, read)
                    if why is not None:
                        (key,) = inspect(row).identity or ("?",)
                        yield f"{row_class.__tablename__}, record {key}: {why}"
    except (WelotropeError, ValueError, TypeError) as error:
        yield f"A record cannot be read ({type(error).__name__})."
    finally:
        engine.dispose()
