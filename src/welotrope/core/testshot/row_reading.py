"""A row of sheets one behind another, measured: where the plane of focus fell, beyond where one sloping sheet reaches.

Each sheet is alike blurred all over, by as much as it lies off the plane of focus in reciprocal distance. Which side
it lies on no sheet tells; all of them together do, since blur is least at one place and grows on both sides of it.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from welotrope.core.optics.elementwise import AnyArray
from welotrope.core.stats import t_quantile
from welotrope.core.testshot.doubts import light_doubt, shake_doubt, size_doubt
from welotrope.core.testshot.facing import BARE_PAPER, FacingBlurs, facing_blurs
from welotrope.core.testshot.find_sheet import FoundMarker, facing_sheets_in, markers_in
from welotrope.core.testshot.plane_fit import RobustFit, robust_fit
from welotrope.core.testshot.plane_reading import WIDE, PlaneReading, sharp_limits
from welotrope.core.testshot.pose import pose_at, pose_of
from welotrope.core.testshot.sheets import MARK_OF_ROW, SheetKind, SheetPaper
from welotrope.core.testshot.slope import ShotSettings
from welotrope.core.testshot.transfer import as_bytes, as_shares

Grid = NDArray[np.float64]
Grey = NDArray[np.uint8]
LEAST_SHEETS = 4
_STOP_KNOWN_TO, _UNKNOWN_TO = 0.1, 1.0  # scatter of the logarithm of how fast blur grows: marked stop, none
_LEAN_KNOWN_TO, _OWN_PX2 = 0.05, 12.0  # scatter of the lean, a pure number, and of the square of own blur, px²
_DISTANCE_SHARE = 0.0007  # scatter of a distance from the size of a sheet
_PLANES, _SPARE = 400, 0.05  # places tried to begin with; how far beyond the row the plane may be, of its length
_MISFIT, _RATE_OFF, _RATE_ERRORS = 3.5, 0.06, 3.0
_ROUNDS = 2
_SHARP_PX2 = 60.0  # squared blur up to which motion can be told: one of 8 px makes 43


@dataclass(frozen=True, kw_only=True)
class _Row:
    """The sheets of a row as they lie before the lens.

    Parameters
    ----------
    sheets, numbers
        Their blurs, and which they are.
    x, z
        Where each of all patches lies, to the right of the mark and away from the lens, mm.
    squared, scatter, sheet_of
        Of all patches: squared blur, px², its scatter, and the sheet each lies on.
    mark_z, image_mm
        From the lens to the mark and to the film, mm.
    """

    sheets: tuple[FacingBlurs, ...]
    numbers: tuple[int, ...]
    x: Grid
    z: Grid
    squared: Grid
    scatter: Grid
    sheet_of: NDArray[np.int_]
    mark_z: float
    image_mm: float


def read_row(
    picture: AnyArray, shot: ShotSettings, *, markers: Sequence[FoundMarker] | None = None,
    distances_mm: Mapping[int, float] | None = None,
) -> PlaneReading:  # fmt: skip
    """Return what a picture of a row of sheets tells; the mark is that of sheet 5.

    Parameters
    ----------
    picture
        Grey values the right way up, shape (height, width), 8 bit or any floating range.
    shot
        What is known of it.
    markers
        Those in the picture, where they were looked for before.
    distances_mm
        From the film to sheets by their number, mm, where they were measured; by their size in the picture otherwise.
    """
    grey = as_bytes(picture)
    size = (picture.shape[1], picture.shape[0])
    seen = facing_sheets_in(list(markers_in(grey) if markers is None else markers), SheetKind.ROW, size)
    light = as_shares(picture)
    blurs = [one for found in seen if (one := facing_blurs(light, found)) is not None]
    count = sum(len(one.found.ids) for one in blurs)
    if problem := _why_not(seen_numbers=[one.sheet.number for one in seen], blurs=blurs):
        return PlaneReading(markers=count, sheets=len(blurs), warnings=(problem,))
    focus, fit = 1.0, None
    for _ in range(_ROUNDS):
        row = _placed(blurs, shot, focus, distances_mm or {})
        rate = shot.focal_mm / (shot.stop or 2.8) * row.image_mm / (shot.width_mm / max(size))
        fit = _fitted(row, rate, known=shot.stop is not None)
        focus = max(float(fit.params[0]) / row.mark_z, 0.2)
    assert fit is not None
    return _told(grey, row, fit, rate, shot)


def _why_not(*, seen_numbers: list[int], blurs: list[FacingBlurs]) -> str:
    if len(seen_numbers) < LEAST_SHEETS:
        return (
            f"Only {len(seen_numbers)} sheet{'' if len(seen_numbers) == 1 else 's'} of the row can be made out: at "
            f"least {LEAST_SHEETS} are needed. Stand them so that none hides another."
        )
    if MARK_OF_ROW not in [one.found.sheet.number for one in blurs]:
        return f"Sheet {MARK_OF_ROW}, which focus is put on, cannot be made out. Stand the others on both sides of it."
    if len(blurs) < LEAST_SHEETS:
        return "Too few sheets of the row are sharp enough to be measured. Stand them closer together, or come nearer."
    return ""


def _placed(blurs: Sequence[FacingBlurs], shot: ShotSettings, focus: float, distances_mm: Mapping[int, float]) -> _Row:
    """Return the sheets before the lens; ``focus`` is the plane's distance as a multiple of the mark's."""
    mark = next(one for one in blurs if one.found.sheet.number == MARK_OF_ROW)
    image = pose_of(mark.found, focal_mm=shot.focal_mm, width_mm=shot.width_mm, focus=focus).image_mm
    places, marks = [], {}
    for one in blurs:
        pose, number = pose_at(one.found, image_mm=image, width_mm=shot.width_mm), one.found.sheet.number
        away = float(pose.in_lens(np.array([one.found.sheet.mark_mm]))[0, 2])
        scale = (distances_mm[number] - image) / away if number in distances_mm else 1.0
        places.append(scale * pose.in_lens(one.centres_mm))
        marks[number] = scale * pose.in_lens(np.array([one.found.sheet.mark_mm]))[0]
    every = np.concatenate(places)
    return _Row(
        sheets=tuple(blurs), numbers=tuple(one.found.sheet.number for one in blurs),
        x=every[:, 0] - float(marks[MARK_OF_ROW][0]), z=every[:, 2],
        squared=np.concatenate([one.squared for one in blurs]), scatter=np.concatenate([one.scatter for one in blurs]),
        sheet_of=np.repeat(np.arange(len(blurs)), [len(one.squared) for one in blurs]),
        mark_z=float(marks[MARK_OF_ROW][2]), image_mm=image,
    )  # fmt: skip


def _fitted(row: _Row, rate: float, *, known: bool) -> RobustFit:
    """Return the plane of focus, mm from the lens beside the mark, its lean, the rate's logarithm, own blur, px²."""
    scatter_of_rate = _STOP_KNOWN_TO if known else _UNKNOWN_TO
    # A sheet's distance is off a little as a whole, and with it the blur that is expected of it.
    apart = _DISTANCE_SHARE / row.z

    def meant(params: Grid) -> tuple[Grid, Grid]:
        plane, lean, log_rate, own = params
        off = 1 / np.maximum(plane + lean * row.x, 1.0) - 1 / row.z
        return math.exp(2 * log_rate) * off**2 + own, 2 * math.exp(2 * log_rate) * np.abs(off) * apart

    def residuals(params: Grid) -> Grid:
        expected, loose = meant(params)
        before = [params[1] / _LEAN_KNOWN_TO, (params[2] - math.log(rate)) / scatter_of_rate, params[3] / _OWN_PX2]
        return np.concatenate(((row.squared - expected) / np.hypot(row.scatter, loose), before))

    begin = _about(row, rate, known=known)
    unit = np.array([float(np.ptp(row.z)) or 1.0, 0.1, 1.0, 1.0])
    return robust_fit(residuals, begin, unit, measured=len(row.squared), groups=row.sheet_of)


def _about(row: _Row, rate: float, *, known: bool) -> Grid:
    """Return where to begin: the plane and rate whose V most blurs fit."""
    nearness, blurs = 1 / row.z, np.sqrt(np.maximum(row.squared, 0.0))
    low, high = float(nearness.min()), float(nearness.max())
    best = (math.inf, 0.0, 0.0)
    for plane in np.linspace(low - 0.2 * (high - low), high + 0.2 * (high - low), _PLANES):
        off = np.abs(plane - nearness)
        for factor in np.geomspace(0.85, 1.18, 5) if known else np.geomspace(1 / 6, 6, 40):
            loss = float(np.minimum(np.abs(factor * rate * off - blurs) / (1.0 + 0.1 * blurs), 4.0).sum())
            if loss < best[0]:
                best = loss, 1 / float(plane), math.log(factor * rate)
    return np.array([best[1], 0.0, best[2], 0.0])


def _told(grey: Grey, row: _Row, fit: RobustFit, rate: float, shot: ShotSettings) -> PlaneReading:
    plane, lean, log_rate, own = (float(one) for one in fit.params)
    error, lean_error = (_widened(fit.error(np.eye(4)[k]), len(row.sheets)) for k in (0, 1))
    mark = next(one for one in row.sheets if one.found.sheet.number == MARK_OF_ROW)
    warnings = list(_doubts(grey, row, fit, rate, shot))
    pitch = shot.width_mm / max(mark.found.size_px)
    x, y = mark.found.px(np.array([mark.found.sheet.mark_mm]))[0]
    common = PlaneReading(
        distance_mm=row.mark_z + row.image_mm, markers=sum(len(one.found.ids) for one in row.sheets),
        mark_px=(float(x), float(y)), own_blur_px=math.sqrt(max(0.25 + own / 16, 0.0)), sheets=len(row.sheets),
        warnings=tuple(warnings),
    )  # fmt: skip
    if off := _off_row(row, plane, error):
        return replace(common, warnings=(*warnings, off))
    near, far = sharp_limits(plane, row.mark_z, rate=math.exp(log_rate), blur_px=shot.blur_mm / pitch)
    formula = (
        sharp_limits(plane, row.mark_z, rate=rate, blur_px=shot.blur_mm / pitch) if shot.stop else (None, None)
    )  # fmt: skip
    behind, tilt = plane - row.mark_z, math.degrees(math.atan(lean))
    tilt_error = math.degrees(lean_error) / (1 + lean**2)
    return replace(
        common, plane_mm=behind, plane_low_mm=behind - WIDE * error, plane_high_mm=behind + WIDE * error,
        tilt_deg=tilt, tilt_low_deg=tilt - WIDE * tilt_error, tilt_high_deg=tilt + WIDE * tilt_error,
        sharp_near_mm=near, sharp_far_mm=far, formula_near_mm=formula[0], formula_far_mm=formula[1],
    )  # fmt: skip


def _widened(error: float, sheets: int) -> float:
    """Return a standard error with which 1.96 of it hold in 95 %, of a scatter that few sheets told (Student's t)."""
    return error * t_quantile(0.975, max(sheets - 2, 1)) / WIDE


def _off_row(row: _Row, plane: float, error: float) -> str:
    """Return what is said of a plane that does not lie within the row, or may well not; empty otherwise."""
    nearest, farthest = float(row.z.min()), float(row.z.max())
    spare = _SPARE * (farthest - nearest)
    if plane + WIDE * error < nearest or plane < nearest - spare:
        return "The plane of focus lies in front of all sheets of the row. Focus farther away, or move the row."
    if plane - WIDE * error > farthest or plane > farthest + spare:
        return "The plane of focus lies behind all sheets of the row. Focus nearer, or move the row."
    if 2 * WIDE * error > farthest - nearest:
        return (
            "All sheets are alike sharp, so that they do not tell where the plane of focus is. "
            "Stand them farther apart, open the stop, or come nearer."
        )
    return ""


def _doubts(grey: Grey, row: _Row, fit: RobustFit, rate: float, shot: ShotSettings) -> Iterator[str]:
    mark = next(one for one in row.sheets if one.found.sheet.number == MARK_OF_ROW)
    yield from light_doubt(grey, mark.found, BARE_PAPER)
    sharpest = min(row.sheets, key=lambda one: float(np.median(one.squared)))
    if float(np.median(sharpest.squared)) < _SHARP_PX2:
        yield from shake_doubt(grey, sharpest.found, sharpest.centres_mm, per_px=1)
    sizes = [told for one in row.sheets for told in size_doubt(grey, one.found, list(SheetPaper))]
    if len(sizes) * 2 > len(row.sheets):
        yield sizes[len(sizes) // 2]
    away = [float(row.z[row.sheet_of == index].mean()) for index in range(len(row.sheets))]
    if away != sorted(away):
        yield "The sheets do not stand in the order of their numbers, 1 nearest to the camera. Put them in order."
    misfit = float(np.sqrt(np.mean(fit.left**2)))
    if misfit > _MISFIT:
        yield "Blur does not grow along the row as behind a lens. Stand all sheets straight to the camera."
    off, error = float(fit.params[2]) - math.log(rate), fit.error(np.eye(4)[2])
    if shot.stop and abs(off) > _RATE_OFF and abs(off) > _RATE_ERRORS * error:
        yield (
            f"Blur grows {abs(100 * math.expm1(off)):.0f} % {'faster' if off > 0 else 'more slowly'} than stop and "
            "focal length say. Check them, and the 50 mm bars of the prints."
        )
