"""What a camera or scanner wrote into a picture; whatever makes no sense counts as not written."""

from __future__ import annotations

import datetime as dt
import math
import re
from collections.abc import Mapping
from contextlib import suppress
from pathlib import Path
from typing import SupportsFloat

from welotrope.core.picture.picture import PictureExif
from welotrope.core.units.text import cleaned
from welotrope.interchange.pictures.opened import Opened

_EXIF_IFD = 0x8769
_TAGS = {
    "make": 0x010F, "model": 0x0110, "time": 0x0132, "taken": 0x9003, "subsecond": 0x9291, "offset": 0x9011,
    "shutter": 0x829A, "stop": 0x829D, "iso": 0x8827, "focal": 0x920A, "lens": 0xA434, "number": 0x9211,
    "focal_35": 0xA405,
}  # fmt: skip
_NAMES = {
    "make": "Image Make", "model": "Image Model", "time": "Image DateTime", "taken": "EXIF DateTimeOriginal",
    "subsecond": "EXIF SubSecTimeOriginal", "offset": "EXIF OffsetTimeOriginal", "shutter": "EXIF ExposureTime",
    "stop": "EXIF FNumber", "iso": "EXIF ISOSpeedRatings", "focal": "EXIF FocalLength", "lens": "EXIF LensModel",
    "focal_35": "EXIF FocalLengthIn35mmFilm",
}  # fmt: skip
_TIME = re.compile(r"^(\d{4})[:-](\d\d)[:-](\d\d) (\d\d):(\d\d):(\d\d)")
_OFFSET = re.compile(r"^([+-])(\d\d):(\d\d)$")


def read_exif(picture: Opened) -> tuple[dt.datetime | None, PictureExif]:
    """Return the time a picture was taken, local and naive, and what else was written."""
    tags = _by_pillow(picture) if picture.image is not None else _by_exifread(picture.path)
    make, model = _text(tags.get("make")), _text(tags.get("model"))
    taken = _time(tags.get("taken")) or _time(tags.get("time"))
    subsecond = _text(tags.get("subsecond"))
    return taken, PictureExif(
        camera=model if make.split(" ")[0].lower() in model.lower() else f"{make} {model}".strip(),
        lens=_text(tags.get("lens")), focal_mm=_positive(tags.get("focal"), 20_000),
        focal_in_35mm=_positive(tags.get("focal_35"), 20_000),
        stop=_positive(tags.get("stop"), 1000), shutter_s=_positive(tags.get("shutter"), 1e6),
        iso=_iso(tags.get("iso")),
        offset_min=_offset(tags.get("offset")), number=_text(tags.get("number"))[:12],
        subsecond_s=float(f"0.{subsecond[:9]}") if subsecond.isascii() and subsecond.isdigit() else None,
    )  # fmt: skip


def _by_pillow(picture: Opened) -> Mapping[str, object]:
    if picture.image is None:
        return {}
    with suppress(Exception):  # a block that is broken is as good as none
        exif = picture.image.getexif()
        held = {**exif, **exif.get_ifd(_EXIF_IFD)}
        return {name: held.get(tag) for name, tag in _TAGS.items()}
    return {}


def _by_exifread(path: Path) -> Mapping[str, object]:
    import exifread

    with suppress(Exception), path.open("rb") as file:
        held = exifread.process_file(file, details=False, extract_thumbnail=False, builtin_types=True)
        return {name: held.get(key) for name, key in _NAMES.items()}
    return {}


def _text(value: object) -> str:
    if isinstance(value, bytes):
        value = value.decode("utf-8", "replace")
    return cleaned(str(value or "")).strip("\0 ")[:80]


def _number(value: object) -> float | None:
    if isinstance(value, list | tuple):
        value = value[0] if value else None
    if not isinstance(value, str | bytes | SupportsFloat):
        return None
    with suppress(ValueError, ZeroDivisionError, OverflowError):
        number = float(value)
        return number if math.isfinite(number) else None
    return None


def _positive(value: object, most: float) -> float | None:
    number = _number(value)
    return number if number is not None and 0 < number <= most else None


def _iso(value: object) -> int | None:
    number = _positive(value, 10_000_000)
    return None if number is None or number < 1 else int(number)


def _time(value: object) -> dt.datetime | None:
    """Read a time as EXIF writes it; clocks that were never set write one of 0000."""
    found = _TIME.match(_text(value))
    with suppress(ValueError):
        moment = dt.datetime.fromisoformat("{}-{}-{}T{}:{}:{}".format(*found.groups())) if found else None
        return moment if moment is not None and 1900 <= moment.year <= 2200 else None
    return None


def _offset(value: object) -> int | None:
    found = _OFFSET.match(_text(value))
    return None if found is None else (int(found[2]) * 60 + int(found[3])) * (-1 if found[1] == "-" else 1)
