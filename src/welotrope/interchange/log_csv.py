"""The log as CSV (RFC 4180, UTF-8): one row a frame, units in the column names, ``inf`` for infinity."""

from __future__ import annotations

import csv
import io
import math
from collections.abc import Iterable, Iterator

from welotrope.core.review.frame import Frame
from welotrope.core.units.shutter import format_shutter

COLUMNS = (
    "outing", "taken_at", "film_frame", "body", "lens", "focal_mm", "stop", "set_distance_mm", "ring_deg",
    "near_mm", "far_mm", "blur_circle_mm", "preset", "shutter", "iso", "result", "note",
)  # fmt: skip
_FORMULA_STARTS = ("=", "+", "-", "@", "\t", "\r")


def log_csv(frames: Iterable[tuple[str, Frame]]) -> Iterator[str]:
    """Yield the lines of the CSV file for (outing name, frame) pairs, the header first."""
    yield _line(COLUMNS)
    for outing, frame in frames:
        yield _line(_cells(outing, frame))


def _cells(outing: str, frame: Frame) -> tuple[str, ...]:
    return (
        _text(outing),
        frame.taken_at.isoformat(sep=" "),
        _text(frame.film_frame),
        _text(frame.body_name),
        _text(frame.lens_name),
        f"{frame.focal_mm:g}",
        f"{frame.stop:g}",
        _mm(frame.distance_mm),
        f"{frame.angle_deg:.2f}",
        _mm(frame.near_mm),
        _mm(frame.far_mm),
        f"{frame.blur_mm:.4f}",
        _text(frame.preset_name),
        "" if frame.shutter_s is None else format_shutter(frame.shutter_s).removesuffix(" s"),
        "" if frame.iso is None else str(frame.iso),
        frame.outcome.value if frame.outcome else "",
        _text(frame.note),
    )


def _mm(value: float) -> str:
    return "inf" if math.isinf(value) else f"{value:.1f}"


def _text(value: str) -> str:
    """Quote text that a spreadsheet would run as a formula."""
    return f"'{value}" if value.startswith(_FORMULA_STARTS) else value


def _line(cells: Iterable[str]) -> str:
    buffer = io.StringIO()
    csv.writer(buffer).writerow(cells)
    return buffer.getvalue()
