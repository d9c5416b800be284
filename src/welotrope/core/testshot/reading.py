"""One picture of whichever sheets it shows: a slope sheet, or a row."""

from __future__ import annotations

from welotrope.core.optics.elementwise import AnyArray
from welotrope.core.testshot.find_sheet import facing_sheets_in, markers_in, sheet_of
from welotrope.core.testshot.plane_reading import PlaneReading
from welotrope.core.testshot.row_reading import read_row
from welotrope.core.testshot.sheets import SheetKind
from welotrope.core.testshot.slope import ShotSettings
from welotrope.core.testshot.slope_reading import read_slope
from welotrope.core.testshot.transfer import as_bytes

_LEAST_OF_ROW = 2  # sheets from which on it is one


def read_plane(picture: AnyArray, shot: ShotSettings) -> PlaneReading:
    """Return where the plane of focus fell; parameters as in :func:`read_slope`.

    Parameters
    ----------
    picture
        Grey values, shape (height, width), of 8 or 16 bits or as floats.
    shot
        How the picture was taken.
    """
    size = (picture.shape[1], picture.shape[0])
    markers = markers_in(as_bytes(picture))
    sloping = sheet_of(markers, SheetKind.SLOPE, size)
    if sloping is None and len(facing_sheets_in(markers, SheetKind.ROW, size)) >= _LEAST_OF_ROW:
        return read_row(picture, shot, markers=markers)
    return read_slope(picture, shot, markers=markers)
