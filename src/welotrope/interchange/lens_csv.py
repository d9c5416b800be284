"""Lenses from a CSV file in whatever dialect and encoding a spreadsheet wrote it: text rows with their line numbers."""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass
from typing import Any

from welotrope.core.errors import OutOfRangeError, UnreadableError

COLUMNS = {
    "name": ("name", "lens"),
    "focal": ("focal", "focal_mm", "focal length"),
    "stops": ("stops", "marked stops"),
    "closest_focus": ("closest", "closest_focus", "closest focus", "closest_m", "closest_ft"),
    "throw": ("throw", "throw_deg"),
    "diameter": ("diameter", "ring_diameter_mm", "ring diameter"),
    "infinity_side": ("infinity_side", "infinity"),
    "mount": ("mount",),
    "engraved_m": ("engraved_m",),
    "engraved_ft": ("engraved_ft",),
}
REQUIRED = ("name", "focal", "stops", "closest_focus")
MAX_ROWS = 1000
_ENCODINGS = ("utf-8-sig", "cp1252")


@dataclass(frozen=True)
class LensLine:
    """One row: its line number in the file and its fields as text, by the names of ``COLUMNS``."""

    line: int
    fields: dict[str, str]


def decode(data: bytes) -> str:
    """Return the text of a file: UTF-16 by its mark, UTF-8, or else the Western European code page."""
    if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return data.decode("utf-16", errors="replace")
    for encoding in _ENCODINGS[:-1]:
        try:
            return data.decode(encoding)
        except UnicodeDecodeError:
            continue
    return data.decode(_ENCODINGS[-1], errors="replace")


def _next(reader: Any, otherwise: Any = ()) -> Any:
    """Return the next row; a field too long for the reader is refused by its line."""
    try:
        return next(reader, otherwise)
    except csv.Error as error:
        raise UnreadableError(
            f"line {reader.line_num}", "", f"it cannot be read as a row ({error})", "Correct that line, or leave it out"
        ) from None


def _with_unit(text: str, column: str) -> str:
    """Give a number without a unit the one its column is named after."""
    alone = text.replace(".", "", 1).replace(",", "", 1).isdigit()
    return f"{text} ft" if alone and column == "closest_ft" else text


def read_lens_lines(text: str) -> tuple[list[LensLine], list[str]]:
    """Split a CSV file into rows of known fields; the delimiter is the commonest of ``; , tab`` in the header.

    Returned beside them are the columns that are not known.

    Raises
    ------
    UnreadableError
        When required columns are missing.
    OutOfRangeError
        When there are more than 1000 rows.
    """
    header_line = text.partition("\n")[0]
    delimiter = max(";,\t", key=header_line.count)
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter)
    header = [cell.strip().lower() for cell in _next(reader)]
    places = {
        field: next((header.index(name) for name in names if name in header), None) for field, names in COLUMNS.items()
    }
    missing = [COLUMNS[field][0] for field in REQUIRED if places[field] is None]
    if missing:
        raise UnreadableError(
            "header line", header_line[:60], f"there is no column {', '.join(missing)}",
            "Name the columns name, focal, stops, closest (metres; or closest_ft), and if known throw, diameter,"
            " infinity_side, mount, engraved_m, engraved_ft",
        )  # fmt: skip
    lines = []
    while (cells := _next(reader, None)) is not None:
        if any(cell.strip() for cell in cells):
            fields = {
                field: _with_unit(cells[place].strip(), header[place])
                for field, place in places.items()
                if place is not None and place < len(cells)
            }
            lines.append(LensLine(reader.line_num, fields))
        if len(lines) > MAX_ROWS:
            raise OutOfRangeError("lenses", f"more than {MAX_ROWS}", "that is more than one file may bring", "Split it")
    known = {name for names in COLUMNS.values() for name in names}
    return lines, [name for name in header if name and name not in known]
