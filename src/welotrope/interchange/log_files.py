"""The log as CSV (RFC 4180), one row a frame; and an outing as one JSON document with its pictures."""

from __future__ import annotations

import csv
import io
import json
import math
from collections.abc import Callable, Iterable, Iterator, Mapping
from typing import Any

from welotrope.core.json_values import JsonObject
from welotrope.core.picture.picture import Picture
from welotrope.core.review.frame import Frame, Outing
from welotrope.core.units.exposure import format_shutter

_FORMULA_STARTS = ("=", "+", "-", "@", "\t", "\r")
FORMAT, VERSION = "welotrope-outing", 1


def _number(digits: str) -> Callable[[float | None], str]:
    return lambda value: "" if value is None else "inf" if math.isinf(value) else f"{value:{digits}}"


def _text(value: str) -> str:
    """Quote text that a spreadsheet would run as a formula."""
    return f"'{value}" if value.startswith(_FORMULA_STARTS) else value


def _shutter(value: float | None) -> str:
    return "" if value is None else format_shutter(value).removesuffix(" s")


_MM, _WHOLE = _number(".1f"), _number("d")
# Name, value, and how it is written.
_COLUMNS: tuple[tuple[str, Callable[[Frame], object], Callable[..., str]], ...] = (
    ("taken_at", lambda frame: frame.taken_at, lambda value: str(value.isoformat(sep=" "))),
    ("film_frame", lambda frame: frame.film_frame, _text),
    ("body", lambda frame: frame.body_name, _text),
    ("lens", lambda frame: frame.lens_name, _text),
    ("focal_mm", lambda frame: frame.focal_mm, _number("g")),
    ("stop", lambda frame: frame.stop, _number("g")),
    ("set_distance_mm", lambda frame: frame.distance_mm, _MM),
    ("ring_deg", lambda frame: frame.angle_deg, _number(".2f")),
    ("near_mm", lambda frame: frame.near_mm, _MM),
    ("far_mm", lambda frame: frame.far_mm, _MM),
    ("blur_circle_mm", lambda frame: frame.blur_mm, _number(".4f")),
    ("preset", lambda frame: frame.preset_name, _text),
    ("shutter", lambda frame: frame.shutter_s, _shutter),
    ("iso", lambda frame: frame.iso, _WHOLE),
    ("result", lambda frame: frame.outcome.value if frame.outcome else "", _text),
    ("note", lambda frame: frame.note, _text),
    ("subject", lambda frame: frame.subject, _text),
    ("place_x", lambda frame: frame.spot.x if frame.spot else None, _number(".4g")),
    ("place_y", lambda frame: frame.spot.y if frame.spot else None, _number(".4g")),
    ("believed_mm", lambda frame: frame.believed_mm, _MM),
    ("aid", lambda frame: frame.aid, _text),
    ("technique", lambda frame: frame.technique, _text),
    ("support", lambda frame: frame.support, _text),
    ("light", lambda frame: frame.light, _text),
    ("sharp_instead", lambda frame: frame.instead, _text),
    ("miss_mm", lambda frame: frame.miss_mm, _MM),
    ("undated", lambda frame: frame.undated, lambda value: "yes" if value else ""),
    ("tags", lambda frame: " ".join(frame.tags), _text),
)  # fmt: skip
COLUMNS = ("outing", *(name for name, _, _ in _COLUMNS), "roll")


def log_csv(frames: Iterable[tuple[str, Frame]], *, rolls: Mapping[int, str] | None = None) -> Iterator[str]:
    """Yield the lines of the CSV file for (outing name, frame) pairs, the header first; ``rolls`` are names by key."""
    yield _line(COLUMNS)
    for outing, frame in frames:
        cells = (write(value(frame)) for _, value, write in _COLUMNS)
        yield _line((_text(outing), *cells, _text((rolls or {}).get(frame.roll_id or 0, ""))))


def frame_values(frame: Frame) -> JsonObject:
    """Return a frame as JSON values under the same names; what is not known is null, infinity ``"inf"``."""
    return {name: _json(value(frame)) for name, value, _ in _COLUMNS}


def _json(value: object) -> Any:
    if isinstance(value, float) and math.isinf(value):
        return "inf"
    return value.isoformat(sep=" ") if hasattr(value, "isoformat") else value


def _line(cells: Iterable[str]) -> str:
    buffer = io.StringIO()
    csv.writer(buffer).writerow(cells)
    return buffer.getvalue()


def outing_json(
    outing: Outing, frames: Iterable[Frame], pictures: Mapping[int, list[Picture]], rolls: Mapping[int, str]
) -> str:
    """Return the document; ``pictures`` are by the key of their frame, ``rolls`` names by key."""
    return json.dumps(
        {
            "format": FORMAT, "version": VERSION, "outing": outing.name, "day": outing.day.isoformat(),
            "frames": [
                {
                    **frame_values(frame), "roll": rolls.get(frame.roll_id or 0),
                    "pictures": [
                        {"name": one.name, "sha256": one.sha256, "width_px": one.width_px, "height_px": one.height_px}
                        for one in pictures.get(frame.id, [])
                    ],
                }
                for frame in frames
            ],
        },
        ensure_ascii=False, indent=1,
    )  # fmt: skip
