"""Pictures of sheets for the tests: small, of a simulated camera, as JPEG leaves them."""

import functools

import cv2

from welotrope.core.testshot.camera import SimulatedCamera, picture_of
from welotrope.core.testshot.sheets import SheetPaper, slope_sheet

SIZE = (1800, 1200)
USUAL = {"focal_mm": 50.0, "stop": 2.0, "distance_mm": 700.0, "size_px": SIZE, "noise": 3.0}


def camera(**more):
    return SimulatedCamera(**(USUAL | more))


@functools.lru_cache(24)
def shot(camera, sheet=None, quality=88):
    """What a camera wrote of a sheet, read again."""
    picture = picture_of(sheet or slope_sheet(SheetPaper.A4), camera)
    _, data = cv2.imencode(".jpg", picture, [cv2.IMWRITE_JPEG_QUALITY, quality])
    return cv2.imdecode(data, cv2.IMREAD_GRAYSCALE)
