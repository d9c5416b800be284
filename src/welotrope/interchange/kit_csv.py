"""CSV of the kit: lenses read from whatever a spreadsheet wrote, and the calibrated scale of a set-up written."""

from __future__ import annotations

import csv
import io
import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from welotrope.core.errors import OutOfRangeError, UnreadableError
from welotrope.core.inputs import inputs_of
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.setup import Setup
from welotrope.core.plan.setting import ring_setting
from welotrope.core.ring.strip import Wrap
from welotrope.core.units.distance import MM_PER_FOOT

_INPUTS = [one for one in inputs_of(Lens) if one.columns]
COLUMNS = {one.name: one.columns for one in _INPUTS}
REQUIRED = tuple(one.name for one in _INPUTS if not one.optional and not one.usual)
MAX_ROWS = 1000
_ENCODINGS = ("utf-8-sig", "cp1252")


@dataclass(frozen=True)
class LensLine:
    """One row: its line number in the file and its fields as text, by the names of ``COLUMNS``."""

    line: int
    fields: dict[str, str]


def _named(fields: Iterable[str]) -> str:
    return ", ".join(COLUMNS[name][0] for name in fields)


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


def _next(reader: Any, *, otherwise: object = ()) -> Any:
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
            f"Name the columns {_named(REQUIRED)} (metres; or closest_ft), and if known"
            f" {_named([name for name in COLUMNS if name not in REQUIRED])}",
        )  # fmt: skip
    lines = []
    while (cells := _next(reader, otherwise=None)) is not None:
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


def write_scale(setup: Setup, distances_mm: Sequence[float], stops: Sequence[float], wrap: Wrap | None) -> str:
    """Return a row per distance: where it sits, what the engraving says there, and its limits per stop, in metres.

    Infinity is written ``inf``; a distance the engraving does not have is left empty.
    """
    known = setup.known
    table = io.StringIO()
    writer = csv.writer(table, lineterminator="\n")
    limits = [name for stop in stops for name in (f"near_m_f{stop:g}", f"far_m_f{stop:g}")]
    writer.writerow(["true_m", "true_ft", "angle_deg", "strip_mm", "engraved_m", *limits])
    for mm in distances_mm:
        angle = setup.ring().setting_for(mm)
        row = [_metres(mm), _number(mm / MM_PER_FOOT, 2), f"{angle:.2f}"]
        row.append("" if wrap is None else f"{wrap.place(angle):.2f}")
        row.append("" if known.step_deg else _metres(float(known.scale.distance_at_angle(angle))))
        for stop in stops:
            setting = ring_setting(setup, setup.ring(stop).setting_for(mm), stop)
            row += [_metres(setting.near_mm), _metres(setting.far_mm)]
        writer.writerow(row)
    return table.getvalue()


def _metres(mm: float) -> str:
    return _number(mm / 1000, 3)


def _number(value: float, digits: int) -> str:
    return "inf" if math.isinf(value) else f"{value:.{digits}f}"
