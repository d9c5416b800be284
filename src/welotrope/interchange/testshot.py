"""Test shots from picture files: what is asked, and what was measured, as JSON values."""

from __future__ import annotations

import dataclasses
import math
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from welotrope.core.errors import Field, OutOfRangeError, UnreadableError
from welotrope.core.fields import FOCAL, PICTURE_WIDTH, PICTURES
from welotrope.core.json_values import JsonObject
from welotrope.core.units.numbers import number
from welotrope.core.units.stops import parse_stop

if TYPE_CHECKING:
    from welotrope.core.testshot.reading import SlopeReading
    from welotrope.core.testshot.ring_series import RingReading
    from welotrope.core.testshot.stop_series import StopReading

STOP, BLUR = Field("stop", "stop"), Field("blur", "blur that counts as sharp")
USUAL_BLUR_MM = 0.03
LIMITS = {FOCAL: (4.0, 2000.0), PICTURE_WIDTH: (3.0, 400.0), STOP: (0.5, 128.0), BLUR: (0.001, 1.0)}
MOST_PICTURES = 40
_ROUNDED = {"plane": 4, "sharp": 3, "formula": 3, "tilt": 4, "slope": 3, "distance": 2, "own": 3}


@dataclass(frozen=True, kw_only=True)
class SlopeOptions:
    """What is said of a picture; what is None comes from its EXIF: mm, mm, f-number, mm."""

    focal_mm: float | None = None
    width_mm: float | None = None
    stop: float | None = None
    blur_mm: float = USUAL_BLUR_MM


def slope_values(picture: Path, said: SlopeOptions) -> JsonObject:
    """Measure one picture of a sloping sheet.

    Raises
    ------
    UnreadableError
        When the picture cannot be read, or neither it nor the options tell focal length or width.
    OutOfRangeError
        When a value lies beyond what lenses and cameras are.
    """
    from welotrope.core.testshot.reading import read_slope
    from welotrope.core.testshot.slope import SlopeShot
    from welotrope.interchange.pictures.exif import read_exif
    from welotrope.interchange.pictures.opened import opened

    with opened(picture) as found:
        _, exif = read_exif(found)
        focal = said.focal_mm or exif.focal_mm
        width = said.width_mm or exif.sensor_width_mm
        stop = said.stop or exif.stop
        _needed(FOCAL, focal, "Write it, such as --focal 50")
        _needed(PICTURE_WIDTH, width, "Write the longer side of the sensor or film in mm, such as --width 36")
        for field, value in ((FOCAL, focal), (PICTURE_WIDTH, width), (STOP, stop), (BLUR, said.blur_mm)):
            if value is not None:
                _within(field, value)
        grey = found.grey()
    assert focal is not None
    assert width is not None
    return slope_json(read_slope(grey, SlopeShot(focal_mm=focal, width_mm=width, stop=stop, blur_mm=said.blur_mm)))


def _needed(field: Field, value: float | None, works: str) -> None:
    if value is None:
        raise UnreadableError(field, "", "neither the options nor the picture tell it", works)


def _within(field: Field, value: float) -> None:
    low, high = LIMITS[field]
    if not low <= value <= high:
        raise OutOfRangeError(field, f"{value:g}", "no lens or camera is like that", f"Write {low:g} to {high:g}")


def slope_json(found: SlopeReading) -> JsonObject:
    """Return what was measured for JSON: rounded, lists for tuples, null for what is not known."""
    values = dataclasses.asdict(found)
    for name, value in values.items():
        if isinstance(value, float):
            values[name] = _plain(value, _ROUNDED.get(name.partition("_")[0], 4))
    values["warnings"] = list(found.warnings)
    return values


def _plain(value: float, digits: int = 4) -> float | None:
    return round(value, digits) if math.isfinite(value) else None


@dataclass(frozen=True)
class Placed:
    """A picture and where ring or stop stood for it."""

    picture: Path
    at: float


def read_placed(texts: Sequence[str], *, stops: bool) -> list[Placed]:
    """Read pictures as they are written on the command line, each with ``@`` and its place.

    Raises
    ------
    UnreadableError
        When a place is missing or is no number.
    """
    found = []
    for text in texts:
        name, sign, place = text.rpartition("@")
        example = "shot.jpg@2.8" if stops else "shot.jpg@12.5"
        if not sign or not name:
            raise UnreadableError(PICTURES, text, "it does not say where it was taken", f"Write {example}")
        found.append(Placed(Path(name), read_place(place, stops=stops, works=f"Write {example}")))
    return found


def read_place(text: str, *, stops: bool, works: str) -> float:
    """Read where ring or stop stood: a number in any unit, or an f-number."""
    if stops:
        stop = parse_stop(text)
        _within(STOP, stop)
        return stop
    try:
        return number(text, PICTURES)
    except UnreadableError as error:
        raise UnreadableError(PICTURES, text, error.problem, works) from None


def ring_values(placed: Sequence[Placed]) -> JsonObject:
    """Measure a series of the ring."""
    from welotrope.core.testshot.ring_series import look, read_ring
    from welotrope.interchange.pictures.opened import opened

    _count(placed)
    shots, sizes = [], set()
    for one in placed:
        with opened(one.picture) as found:
            grey = found.grey()
        sizes.add((grey.shape[1], grey.shape[0]))
        if len(sizes) > 1:
            read = ", ".join(f"{width} × {height}" for width, height in sorted(sizes))
            raise OutOfRangeError(PICTURES, read, "the pictures are of different sizes", "Take all with one setting")
        shots.append(look(grey))
    return ring_json(read_ring([one.at for one in placed], shots))


def ring_json(found: RingReading) -> JsonObject:
    """Return what a series of the ring tells, for JSON."""
    return {
        "best": found.best, "low": found.low, "high": found.high,
        "curve": [{"at": one.at, "score": round(one.score, 4)} for one in found.curve],
        "warnings": list(found.warnings),
    }  # fmt: skip


def stops_values(placed: Sequence[Placed]) -> JsonObject:
    """Measure a series of stops."""
    from welotrope.core.testshot.stop_series import StopSeries
    from welotrope.interchange.pictures.opened import opened

    _count(placed)
    series = StopSeries()
    for one in placed:
        with opened(one.picture) as found:
            series.add(found.grey(), one.at)
    return stops_json(series.read())


def stops_json(found: StopReading) -> JsonObject:
    """Return what a series of stops tells, for JSON."""
    return {
        "best_centre": found.best_centre, "best_corner": found.best_corner,
        "zones": {
            zone.value: [
                {"stop": one.stop, "score": round(one.score, 4), "low": round(one.low, 4), "high": round(one.high, 4)}
                for one in scores
            ]
            for zone, scores in found.zones.items()
        },
        "warnings": list(found.warnings),
    }  # fmt: skip


def _count(placed: Sequence[Placed]) -> None:
    if len(placed) > MOST_PICTURES:
        raise OutOfRangeError(
            PICTURES, len(placed), "that is more than one series holds", f"Send {MOST_PICTURES} at most"
        )
