"""Sheets looked at straight, as the simulated camera shows them: rows and walls."""

import functools
import math
from dataclasses import replace

from welotrope.core.testshot.camera import SimulatedCamera, picture_of_sheets
from welotrope.core.testshot.sheets import SheetPaper, row_sheet, wall_sheet

SIZE = (2400, 1600)


def row_camera(**more):
    usual = {"focal_mm": 85.0, "stop": 2.0, "distance_mm": 3400.0, "slope_deg": 1.5, "turned_deg": -2.0}
    return SimulatedCamera(**({"size_px": SIZE} | usual | more))


@functools.cache
def row_picture(camera, step_mm=90.0, numbers=(3, 4, 5, 6, 7), order=None):
    """Sheets beside one another, each a step behind the one before; ``order`` swaps their places."""
    places = dict(zip(numbers, order or numbers, strict=True))
    return picture_of_sheets([
        (row_sheet(SheetPaper.A4, one), camera.before((235.0 * (one - 5), 0.0, step_mm * (places[one] - 5))))
        for one in numbers
    ])  # fmt: skip


def wall_camera(*, farther, blur_px=5.5, film_tilt=0.0, film_tip=0.0, film_curve=0.0, **more):
    """A camera before a wall, focused off it by a blur; tilts of the lens in degrees, curvature in mm, both at the film."""
    usual = {"focal_mm": 50.0, "stop": 2.0, "distance_mm": 950.0, "slope_deg": 1.0, "turned_deg": -1.5}
    base = SimulatedCamera(**({"size_px": SIZE} | usual | more))
    rate = base.focal_mm / base.stop * base.image_mm / base.pitch_mm
    focus = 1 / (1 / base.distance_mm + (-1 if farther else 1) * blur_px / rate)
    base = replace(base, plane_mm=focus - base.distance_mm)
    tilt, tip = (
        math.degrees(math.atan(math.tan(math.radians(one)) * base.axis_focus_mm / base.focal_mm))
        for one in (film_tilt, film_tip)
    )
    corner = 1 + (SIZE[1] / SIZE[0]) ** 2
    curved = -film_curve / base.image_mm**2 * base.axis_focus_mm**2 / corner
    return replace(base, tilt_deg=tilt, tip_deg=tip, curved_mm=curved)


@functools.cache
def wall_picture(camera):
    """Three sheets pinned up side by side."""
    return picture_of_sheets([
        (wall_sheet(SheetPaper.A4, k + 1), camera.before((213.0 * (k - 1), 0.0, 0.0))) for k in range(3)
    ])  # fmt: skip
