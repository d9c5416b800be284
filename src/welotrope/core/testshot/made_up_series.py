"""Series that a simulated camera takes with a set-up's lens, so that each can be tried without a camera."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from welotrope.core.kit.setup import Setup
from welotrope.core.testshot.camera import SimulatedCamera
from welotrope.core.testshot.series_words import SeriesKind
from welotrope.core.testshot.sheets import Sheet, SheetPaper, slope_sheet, wall_sheet

_SIZE_PX = 1800
_NEAREST_MM, _IN_FOCALS = 500.0, 4.0  # how near it stands at least: mm, and in focal lengths
_SHEETS_HIGH = 255.0  # mm at the sheet that the picture's shorter side shows
_BIAS = 0.8  # how far the aid is off, in halves of the depth of field
_SCATTER = (0.1, -0.35, 0.3, -0.1, 0.2, -0.25, 0.35, 0.0)  # of each picture about that, the same
_MOST_MM = 50.0  # behind the mark, so that the plane stays on the sheet
_NOISE = 3.0
_STOPS, _TURNS_DEG = 5, (0.0, 1.5, 3.0, 4.5, 6.0, 7.5)
_SHIFT = 0.5  # that focus moves back for each stop, in halves of the depth at the widest stop
_FOCUS_SWING = 1.6  # of the ring's series to either side, in halves of that depth
_SHEETS_ACROSS_MM, _SHEETS_UPRIGHT_MM = 213.0, 300.0
_LEAN_DEG, _CURVED = 0.15, 0.4  # of a lens that stands askew; curvature in halves of the depth on the film
_BLUR_PX = 6.0  # of the wall to either side of focus
_OWN_PX, _CORNER_PX = 0.7, 2.0  # wide open, a standard deviation; less by the root of two a stop, more from f/11


def made_up_camera(setup: Setup, stop: float, number: int) -> SimulatedCamera:
    """Return the camera that takes a picture of a made-up series.

    Parameters
    ----------
    setup, stop
        Whose focal length, format and criterion it has; f-number.
    number
        Of the picture, from 0.
    """
    image = setup.body.image
    focal, width = setup.lens.focal_mm, max(image.width_mm, image.height_mm)
    height = min(image.width_mm, image.height_mm)
    distance = max(_NEAREST_MM, _IN_FOCALS * focal, _SHEETS_HIGH * focal / height)
    half_depth = stop * setup.blur_mm * (distance / focal) ** 2
    return SimulatedCamera(
        focal_mm=focal, stop=stop, width_mm=width, size_px=(_SIZE_PX, round(_SIZE_PX * height / width)),
        distance_mm=distance, slope_deg=45.0, roll_deg=2.0 * math.sin(number), noise=_NOISE, seed=number + 1,
        plane_mm=min(half_depth * (_BIAS + _SCATTER[number % len(_SCATTER)]), _MOST_MM),
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class MadeUpShot:
    """A picture to be made: where ring or stop stood, and the sheets with the camera as it stands to each."""

    place: float
    sheets: tuple[tuple[Sheet, SimulatedCamera], ...]


def made_up_series(kind: SeriesKind, setup: Setup) -> tuple[MadeUpShot, ...]:
    """Return the pictures of a made-up series.

    Parameters
    ----------
    kind
        Kind of series.
    setup
        The lens on its body, with what counts as sharp.
    """
    make = {
        SeriesKind.SHIFT: _shift, SeriesKind.RING: _ring, SeriesKind.STOPS: _stops, SeriesKind.LEVEL: _level,
    }  # fmt: skip
    return tuple(make[kind](setup))


def _camera(setup: Setup, stop: float, seed: int) -> SimulatedCamera:
    return replace(made_up_camera(setup, stop, 0), plane_mm=0.0, roll_deg=1.0, seed=seed)


def _half_depth(setup: Setup, camera: SimulatedCamera, stop: float) -> float:
    return stop * setup.blur_mm * (camera.distance_mm / camera.focal_mm) ** 2


def _used(setup: Setup) -> Sequence[float]:
    return sorted(setup.lens.stops)[:_STOPS]


def _shift(setup: Setup) -> list[MadeUpShot]:
    sheet, stops = slope_sheet(SheetPaper.A4), _used(setup)
    first = _camera(setup, stops[0], 1)
    half = min(_half_depth(setup, first, stops[0]), 20.0)
    shots = []
    for number, stop in enumerate(stops):
        moved = _SHIFT * half * math.log2((stop / stops[0]) ** 2)
        camera = replace(_camera(setup, stop, number + 1), plane_mm=min(moved, 50.0))
        shots.append(MadeUpShot(place=stop, sheets=((sheet, camera),)))
    return shots


def _ring(setup: Setup) -> list[MadeUpShot]:
    sheet, stop = slope_sheet(SheetPaper.A4), setup.lens.widest
    half = min(_half_depth(setup, _camera(setup, stop, 1), stop), 20.0)
    middle = (_TURNS_DEG[0] + _TURNS_DEG[-1]) / 2 + 0.4
    shots = []
    for number, turn in enumerate(_TURNS_DEG):
        share = (middle - turn) / (_TURNS_DEG[-1] - _TURNS_DEG[0]) * 2
        camera = replace(_camera(setup, stop, number + 1), plane_mm=_FOCUS_SWING * half * share)
        shots.append(MadeUpShot(place=turn, sheets=((sheet, camera),)))
    return shots


def _wall(camera: SimulatedCamera) -> tuple[tuple[Sheet, SimulatedCamera], ...]:
    """Return nine wall sheets pinned up three by three, as far as they are in the picture."""
    places = [(column - 1, row - 1) for row in range(3) for column in range(3)]
    placed = (
        (number, camera.before((x * _SHEETS_ACROSS_MM, y * _SHEETS_UPRIGHT_MM, 0.0)))
        for number, (x, y) in enumerate(places, start=1)
    )
    return tuple((wall_sheet(SheetPaper.A4, number), one) for number, one in placed)


def _before_wall(setup: Setup, stop: float, seed: int) -> SimulatedCamera:
    camera = _camera(setup, stop, seed)
    across = 3.1 * _SHEETS_ACROSS_MM
    distance = camera.focal_mm * (1 + across / camera.width_mm)
    return replace(camera, distance_mm=distance, slope_deg=0.5, turned_deg=-0.7, roll_deg=0.3)


def _stops(setup: Setup) -> list[MadeUpShot]:
    shots = []
    for number, stop in enumerate(sorted(setup.lens.stops)):
        closed = stop / setup.lens.widest
        blurs = [blur / math.sqrt(closed) + 0.02 * stop for blur in (_OWN_PX, _CORNER_PX)]
        camera = replace(_before_wall(setup, stop, number + 1), own_blur_px=blurs[0], corner_blur_px=blurs[1])
        shots.append(MadeUpShot(place=stop, sheets=_wall(camera)))
    return shots


def _level(setup: Setup) -> list[MadeUpShot]:
    stop = setup.lens.widest
    shots = []
    for side in (-1.0, 1.0):
        camera = _before_wall(setup, stop, 1 if side < 0 else 2)
        rate = camera.focal_mm / stop * camera.image_mm / camera.pitch_mm
        focus = 1 / (1 / camera.distance_mm - side * _BLUR_PX / rate)
        lean = math.tan(math.radians(_LEAN_DEG)) * focus / camera.focal_mm
        curved = _CURVED * setup.blur_mm * stop * (focus / camera.image_mm) ** 2
        camera = replace(
            camera, plane_mm=focus - camera.distance_mm, tilt_deg=math.degrees(math.atan(lean)), curved_mm=curved
        )
        shots.append(MadeUpShot(place=side, sheets=_wall(camera)))
    return shots
