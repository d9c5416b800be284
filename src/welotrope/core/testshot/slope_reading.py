"""What one picture of a sloping sheet tells, with the doubts it leaves."""

from __future__ import annotations

import math
from collections import Counter
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from welotrope.core.optics.elementwise import AnyArray
from welotrope.core.testshot.distortion import STRONG, Distortion, distortion_by, distortion_of_markers
from welotrope.core.testshot.doubts import doubts_about
from welotrope.core.testshot.find_sheet import FoundMarker, FoundSheet, markers_in, sheet_of
from welotrope.core.testshot.plane_fit import off_axis
from welotrope.core.testshot.plane_reading import WIDE, PlaneReading, sharp_limits
from welotrope.core.testshot.sheets import SheetKind
from welotrope.core.testshot.slope import PlaneOnSheet, ShotSettings, find_plane
from welotrope.core.testshot.transfer import as_bytes

_OFF_SHEET = 0.05  # of the depth that was looked at, by which the plane may lie beyond it
_LEAST_SAME = 2  # markers seen twice that make a second sheet
# Half the interval of a tilt up to which a figure is given: degrees, or a share of it.
_TILT_KNOWN_DEG, _TILT_KNOWN_SHARE = 0.3, 0.15

# Neighbouring patches are off together: errors of 300 pictures were so many times as large as patches alone say.
_SHARED = 1.13
# Where the mark lies in the picture is not known better than this, pixels; along the axis it bounds what is told.
_PLACED_PX = 0.2

Grid = NDArray[np.float64]


def read_slope(picture: AnyArray, shot: ShotSettings, *, markers: list[FoundMarker] | None = None) -> PlaneReading:
    """Return what a picture of a sloping sheet tells.

    Parameters
    ----------
    picture
        Grey values the right way up, shape (height, width), 8 bit or any floating range.
    shot
        What is known of it.
    markers
        Those in the picture, where they were looked for before.
    """
    grey = as_bytes(picture)
    size = (picture.shape[1], picture.shape[0])
    markers = markers_in(grey) if markers is None else markers
    found = sheet_of(markers, SheetKind.SLOPE, size)
    if found is None:
        return PlaneReading(warnings=(_why_no_sheet(grey, markers, size),), markers=len(markers))
    same = _twice(markers, found)
    straight = _straightened(picture, markers, found, shot)
    if straight.plane is None:
        soft = "Nothing on the sheet is sharp enough to be measured. Focus on the mark, or come nearer."
        return PlaneReading(markers=len(found.ids), warnings=(*same, soft))
    return _told(as_bytes(straight.picture), straight.plane, shot, same, straight.distortion)


@dataclass(frozen=True, kw_only=True)
class _Straightened:
    """A picture without the distortion that was found in it, if any, and the plane of focus in that."""

    picture: AnyArray
    plane: PlaneOnSheet | None
    distortion: Distortion | None = None


def _straightened(
    picture: AnyArray, markers: list[FoundMarker], found: FoundSheet, shot: ShotSettings
) -> _Straightened:
    """Find the plane of focus; where markers or the measured patches show distortion, without that."""
    rough = distortion_of_markers(markers, found)
    first = _without(picture, markers, found, shot, rough)
    if first.plane is None or first.plane.blurs is None:
        return first
    blurs, where = first.plane.blurs, first.plane.found
    rest = distortion_by(blurs.centres_mm, where.px(blurs.centres_mm) + blurs.shift_px, where.size_px)
    if rest is None:
        return first
    whole = Distortion(k=rest.k + (rough.k if rough else 0.0), size_px=rest.size_px)
    second = _without(picture, markers, found, shot, whole)
    return first if second.plane is None else second


def _without(
    picture: AnyArray, markers: list[FoundMarker], found: FoundSheet, shot: ShotSettings, distortion: Distortion | None
) -> _Straightened:
    if distortion is None:
        return _Straightened(picture=picture, plane=find_plane(picture, found, shot))
    straight = distortion.straightened(picture)
    moved = sheet_of([distortion.marker_without(one) for one in markers], SheetKind.SLOPE, found.size_px)
    plane = find_plane(straight, moved or found, shot)
    return _Straightened(picture=straight, plane=plane, distortion=distortion)


def _twice(markers: list[FoundMarker], found: FoundSheet) -> tuple[str, ...]:
    known = {one.id for one in found.sheet.markers}
    counts = Counter(one.id for one in markers if one.id in known)
    if sum(count > 1 for count in counts.values()) < _LEAST_SAME:
        return ()
    return ("There are two sheets in the picture. Take one away: only one was measured.",)


def _why_no_sheet(grey: NDArray[np.uint8], markers: list[FoundMarker], size: tuple[int, int]) -> str:
    for kind in (SheetKind.ROW, SheetKind.WALL):
        if sheet_of(markers, kind, size) is not None:
            return f"This is the {kind.value} sheet. Photograph the slope sheet."
    if sheet_of(markers_in(np.ascontiguousarray(grey[:, ::-1])), SheetKind.SLOPE, size) is not None:
        return "The picture is mirrored. Turn it over and measure it again."
    if markers:
        return (
            "Too few of the sheet’s markers can be made out: three are needed. "
            "Bring the whole sheet into the picture, sharper or larger."
        )
    return "No sheet was found. Photograph the printed slope sheet so that its black squares can be made out."


def _told(
    grey: NDArray[np.uint8], plane: PlaneOnSheet, shot: ShotSettings, same: tuple[str, ...],
    distortion: Distortion | None,
) -> PlaneReading:  # fmt: skip
    warnings = (*same, *doubts_about(grey, plane, shot))
    if distortion is not None and abs(distortion.k) > STRONG:
        warnings += (
            f"The lens distorts by {100 * abs(distortion.k):.0f} % at the corners, which is allowed for only roughly. "
            "Keep the sheet in the middle of the picture.",
        )  # fmt: skip
    fit, pose = plane.fit, plane.pose
    mark_px = _in_picture(plane.found.px(np.array([plane.found.sheet.mark_mm])), distortion)[0]
    near, far = _limits(plane, fit.rate, shot)
    formula = _limits(plane, plane.expected_rate, shot) if shot.stop else (None, None)
    seen = PlaneReading(
        slope_deg=pose.slope_deg, distance_mm=float(plane.mark[2]) + pose.image_mm, markers=len(plane.found.ids),
        mark_px=mark_px, own_blur_px=fit.own_px, distortion=distortion.k if distortion is not None else None,
        curved_mm=_curved_mm(plane) if fit.bend else None, warnings=warnings,
    )  # fmt: skip
    error, lean_error = (_SHARED * math.sqrt(max(float(fit.covariance[k, k]), 0.0)) for k in (0, 1))
    pixel_mm = pose.pitch_mm / pose.image_mm * float(plane.mark[2]) * math.sin(math.radians(pose.slope_deg))
    error = math.hypot(error, _PLACED_PX * pixel_mm)
    nearest, farthest = _depths(plane)
    spare = _OFF_SHEET * (farthest - nearest)
    if not nearest - spare <= fit.plane_z <= farthest + spare or 2 * WIDE * error > farthest - nearest:
        told = _off_sheet(plane, error, nearest, farthest)
        return replace(seen, warnings=(*warnings, told))
    tilt, tilt_error = math.degrees(math.atan(fit.lean)), math.degrees(lean_error) / (1 + fit.lean**2)
    is_known = WIDE * tilt_error <= max(_TILT_KNOWN_DEG, _TILT_KNOWN_SHARE * abs(tilt))
    return replace(
        seen,
        plane_mm=plane.plane_mm,
        plane_low_mm=plane.plane_mm - WIDE * error,
        plane_high_mm=plane.plane_mm + WIDE * error,
        tilt_deg=tilt if is_known else None,
        tilt_low_deg=tilt - WIDE * tilt_error,
        tilt_high_deg=tilt + WIDE * tilt_error,
        sharp_near_mm=near,
        sharp_far_mm=far,
        formula_near_mm=formula[0],
        formula_far_mm=formula[1],
        plane_line_px=_line(plane, distortion),
    )


def _limits(plane: PlaneOnSheet, rate: float, shot: ShotSettings) -> tuple[float, float | None]:
    mark = float(plane.mark[2])
    return sharp_limits(plane.fit.plane_z, mark, rate=rate, blur_px=shot.blur_mm / plane.pose.pitch_mm)


def _off_sheet(plane: PlaneOnSheet, error: float, nearest: float, farthest: float) -> str:
    """Return what is said of a plane that does not cross what can be seen of the sheet, or may well not."""
    low, high = plane.fit.plane_z - WIDE * error, plane.fit.plane_z + WIDE * error
    if high < nearest:
        return (
            "The plane of focus lies in front of all that can be seen of the sheet. "
            "Focus farther away, or move the sheet."
        )
    if low > farthest:
        return "The plane of focus lies behind all that can be seen of the sheet. Focus nearer, or move the sheet."
    return (
        "The sheet is alike sharp all over, so that it does not tell where the plane of focus is. "
        "Open the stop, or come nearer."
    )


def _depths(plane: PlaneOnSheet) -> tuple[float, float]:
    """Return the distances of the nearest and the farthest detail that can be seen, mm from the lens."""
    found = plane.found
    corners = np.array([
        (x, y) for area in found.sheet.areas
        for x in (area.x, area.x + area.width) for y in np.linspace(area.y, area.y + area.height, 60)
    ])  # fmt: skip
    at = found.px(corners)
    inside = ((at >= 0) & (at <= np.array(found.size_px))).all(axis=1)
    away = plane.pose.in_lens(corners)[:, 2]
    shown = away[inside] if inside.any() else away
    return float(shown.min()), float(shown.max())


def _curved_mm(plane: PlaneOnSheet) -> float:
    """Return how far focus at the side of the page lies behind that at the mark because the field is curved, mm."""
    side = plane.pose.in_lens(np.array([(0.0, plane.found.sheet.mark_mm[1])]))
    bent = plane.fit.bend * float(off_axis(side, plane.mark)[0])
    return 1 / (1 / plane.fit.plane_z + bent) - plane.fit.plane_z


def _in_picture(places_px: Grid, distortion: Distortion | None) -> list[tuple[float, float]]:
    """Return places of the straightened picture where they lie in the picture itself."""
    at = places_px if distortion is None else distortion.within(places_px)
    return [(float(x), float(y)) for x, y in at]


def _line(plane: PlaneOnSheet, distortion: Distortion | None) -> tuple[tuple[float, float], tuple[float, float]] | None:
    """Return where the plane crosses the left and the right edge of the page, px."""
    found, (width, height) = plane.found, plane.found.sheet.paper_mm
    ends = []
    for x in (0.0, width):
        y = np.linspace(-0.5 * height, 1.5 * height, 400)
        lens = plane.pose.in_lens(np.column_stack((np.full_like(y, x), y)))
        off = lens[:, 2] - 1 / np.maximum(plane.fit.nearness(lens, plane.mark), 1e-9)
        change = np.flatnonzero(np.diff(np.sign(off)))
        if not len(change):
            return None
        k = int(change[0])
        at = y[k] - off[k] * (y[k + 1] - y[k]) / (off[k + 1] - off[k])
        ends += _in_picture(found.px(np.array([[x, at]])), distortion)
    return ends[0], ends[1]
