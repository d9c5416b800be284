"""Test shots from picture files: what is asked, and what was measured, as JSON values."""

from __future__ import annotations

import dataclasses
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from welotrope.core.errors import Field, OutOfRangeError, UnreadableError
from welotrope.core.fields import FOCAL, PICTURE_WIDTH, PICTURES
from welotrope.core.json_values import JsonObject
from welotrope.core.testshot.aid_series import MeasuredShot
from welotrope.core.units.distance import parse_distance
from welotrope.core.units.exposure import parse_stop
from welotrope.core.units.text import number

if TYPE_CHECKING:
    from welotrope.core.optics.elementwise import AnyArray
    from welotrope.core.testshot.plane_reading import PlaneReading
    from welotrope.core.testshot.ring_series import BestRingPosition
    from welotrope.core.testshot.shift_series import ShiftReading
    from welotrope.core.testshot.slope import ShotSettings
    from welotrope.core.testshot.stop_series import StopReading
    from welotrope.core.testshot.wall_reading import WallReading

STOP, BLUR = Field("stop", "stop"), Field("blur", "blur that counts as sharp")
SHEET_DISTANCE = Field("distance", "distance of a sheet")
USUAL_BLUR_MM = 0.03
LIMITS = {
    FOCAL: (4.0, 2000.0), PICTURE_WIDTH: (3.0, 400.0), STOP: (0.5, 128.0), BLUR: (0.001, 1.0),
    SHEET_DISTANCE: (100.0, 200_000.0),
}  # fmt: skip
MOST_PICTURES = 40
_ROUNDED = {"plane": 4, "sharp": 3, "formula": 3, "tilt": 4, "slope": 3, "distance": 2, "own": 3}


@dataclass(frozen=True, kw_only=True)
class ShotOptions:
    """What is said of a picture; what is None comes from its EXIF: mm, mm, f-number, mm."""

    focal_mm: float | None = None
    width_mm: float | None = None
    stop: float | None = None
    blur_mm: float = USUAL_BLUR_MM


def plane_values(picture: Path, said: ShotOptions) -> JsonObject:
    """Measure one picture of whichever sheets it shows, a slope sheet or a row.

    Raises
    ------
    UnreadableError, OutOfRangeError
        As in :func:`slope_values`.
    """
    from welotrope.core.testshot.reading import read_plane

    grey, settings = _asked(picture, said)
    return plane_json(read_plane(grey, settings))


def row_values(picture: Path, said: ShotOptions, distances_mm: Mapping[int, float]) -> JsonObject:
    """Measure one picture of a row of sheets, some of which stand at known distances from the film, mm.

    Raises
    ------
    UnreadableError, OutOfRangeError
        As in :func:`slope_values`.
    """
    from welotrope.core.testshot.row_reading import read_row

    for distance in distances_mm.values():
        _within(SHEET_DISTANCE, distance)
    grey, settings = _asked(picture, said)
    return plane_json(read_row(grey, settings, distances_mm=distances_mm))


def read_sheet_distances(texts: Sequence[str]) -> dict[int, float]:
    """Read distances of sheets, each as its number, ``=`` and a distance such as ``5=3.2 m``; mm.

    Raises
    ------
    UnreadableError
        When one is not written so.
    """
    found = {}
    for text in texts:
        sheet, sign, distance = text.partition("=")
        if not sign or not sheet.strip().isdigit():
            raise UnreadableError(SHEET_DISTANCE, text, "it does not say which sheet it is of", "Write 5=3.2m")
        found[int(sheet)] = parse_distance(distance, field=SHEET_DISTANCE)
    return found


def wall_values(nearer: Sequence[Path], farther: Sequence[Path], said: ShotOptions) -> JsonObject:
    """Measure pictures of a wall of sheets, focused nearer and farther than it.

    Raises
    ------
    UnreadableError, OutOfRangeError
        As in :func:`slope_values`; also when no sheet was found in one of them.
    """
    from welotrope.core.testshot.wall_reading import look_at_wall, read_wall

    shots = []
    settings = None
    for picture, is_farther in [*((one, False) for one in nearer), *((one, True) for one in farther)]:
        grey, settings = _asked(picture, said)
        shot = look_at_wall(grey, settings, farther=is_farther)
        if isinstance(shot, str):
            raise UnreadableError(PICTURES, picture.name, "no wall sheet can be measured in it", shot.rstrip("."))
        shots.append(shot)
    if settings is None:
        raise UnreadableError(PICTURES, "", "there is none", "Name one focused nearer than the wall, and one farther")
    return wall_json(read_wall(shots, settings))


def placed_wall_values(placed: Sequence[PictureAt], said: ShotOptions) -> JsonObject:
    """Measure pictures of a wall, each focused farther than it where its place is above 0, else nearer."""
    nearer, farther = ([one.picture for one in placed if (one.at > 0) is side] for side in (False, True))
    return wall_values(nearer, farther, said)


def wall_json(found: WallReading) -> JsonObject:
    """Return what pictures of a wall tell, for JSON; null for what they do not."""
    values: JsonObject = {}
    for name in ("tilt_deg", "tip_deg", "across_mm", "upright_mm", "curvature_mm"):
        told = getattr(found, name)
        stem, unit = name.rsplit("_", 1)
        for key, value in ((name, "value"), (f"{stem}_low_{unit}", "low"), (f"{stem}_high_{unit}", "high")):
            values[key] = None if told is None else _plain(getattr(told, value))
    for name in ("soft_px", "half_depth_mm"):
        value = getattr(found, name)
        values[name] = None if value is None else _plain(value)
    values |= {"sheets": found.sheets, "pictures": found.pictures}
    return values | {"warnings": list(found.warnings)}


def shift_values(placed: Sequence[PictureAt], said: ShotOptions) -> JsonObject:
    """Measure how focus shifts from stop to stop, from pictures of a sheet with the ring untouched.

    Raises
    ------
    UnreadableError, OutOfRangeError, ConflictError
        As in :func:`slope_values`; also when too few of them tell where focus lay.
    """
    from welotrope.core.testshot.shift_series import read_shift

    _count(placed)
    shots = []
    for one in placed:
        found = plane_values(one.picture, dataclasses.replace(said, stop=one.at))
        shots.append(shot_of(found, one.picture.name, one.at))
    return shift_json(read_shift(shots, ring=None))


def shot_of(found: JsonObject, name: str, stop: float) -> MeasuredShot:
    """Return what a picture told as one of a series."""
    return MeasuredShot(
        picture=name, stop=stop, distance_mm=found["distance_mm"], plane_mm=found["plane_mm"],
        low_mm=found["plane_low_mm"], high_mm=found["plane_high_mm"], tilt_deg=found["tilt_deg"],
        warnings=tuple(found["warnings"]),
    )  # fmt: skip


def shift_json(found: ShiftReading) -> JsonObject:
    """Return how focus shifts, for JSON: mm behind (+) or before (-) where it lies at the widest stop."""
    return {
        "stops": [
            {
                "stop": one.stop, "shift_mm": _plain(one.shift_mm), "low_mm": _plain(one.low_mm),
                "high_mm": _plain(one.high_mm), "pictures": one.pictures,
            }
            for one in found.stops
        ],
        "warnings": list(found.warnings),
    }  # fmt: skip


def slope_values(picture: Path, said: ShotOptions) -> JsonObject:
    """Measure one picture of a sloping sheet.

    Raises
    ------
    UnreadableError
        When the picture cannot be read, or neither it nor the options tell focal length or width.
    OutOfRangeError
        When a value lies beyond what lenses and cameras are.
    """
    from welotrope.core.testshot.slope_reading import read_slope

    grey, settings = _asked(picture, said)
    return plane_json(read_slope(grey, settings))


def _asked(picture: Path, said: ShotOptions) -> tuple[AnyArray, ShotSettings]:
    """Return a picture's grey values, and what is known of it from options and EXIF."""
    from welotrope.core.testshot.slope import ShotSettings
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
    return grey, ShotSettings(focal_mm=focal, width_mm=width, stop=stop, blur_mm=said.blur_mm)


def _needed(field: Field, value: float | None, works: str) -> None:
    if value is None:
        raise UnreadableError(field, "", "neither the options nor the picture tell it", works)


def _within(field: Field, value: float) -> None:
    low, high = LIMITS[field]
    if not low <= value <= high:
        raise OutOfRangeError(field, f"{value:g}", "no lens or camera is like that", f"Write {low:g} to {high:g}")


def plane_json(found: PlaneReading) -> JsonObject:
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
class PictureAt:
    """A picture and where ring or stop stood for it."""

    picture: Path
    at: float


def read_placed(texts: Sequence[str], *, stops: bool) -> list[PictureAt]:
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
        found.append(PictureAt(Path(name), read_place(place, stops=stops, works=f"Write {example}")))
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


def ring_values(placed: Sequence[PictureAt]) -> JsonObject:
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


def ring_json(found: BestRingPosition) -> JsonObject:
    """Return what a series of the ring tells, for JSON."""
    return {
        "best": found.best, "low": found.low, "high": found.high,
        "curve": [{"at": one.at, "score": round(one.score, 4)} for one in found.curve],
        "warnings": list(found.warnings),
    }  # fmt: skip


def stops_values(placed: Sequence[PictureAt]) -> JsonObject:
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
        "wide_blur_px": {
            zone.value: {"value": round(one.value, 3), "low": round(one.low, 3), "high": round(one.high, 3)}
            for zone, one in found.wide_blur_px.items()
        },
        "sides": None if found.sides is None else {
            "left": round(found.sides.left, 4), "right": round(found.sides.right, 4),
            "softer": found.sides.softer or None,
        },
        "width_px": found.width_px,
        "warnings": list(found.warnings),
    }  # fmt: skip


def _count(placed: Sequence[PictureAt]) -> None:
    if len(placed) > MOST_PICTURES:
        raise OutOfRangeError(
            PICTURES, len(placed), "that is more than one series holds", f"Send {MOST_PICTURES} at most"
        )
