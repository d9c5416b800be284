"""Why a measured picture may not be trusted, one sentence each: what was seen, and what would help."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from welotrope.core.testshot.find_sheet import FoundSheet
from welotrope.core.testshot.pose import focal_px_of
from welotrope.core.testshot.sheets import SheetPaper
from welotrope.core.testshot.slope import PlaneOnSheet, ShotSettings
from welotrope.core.testshot.transfer import SECTORS, compare

Grid = NDArray[np.float64]
Grey = NDArray[np.uint8]
FLAT_DEG, STEEP_DEG = 25.0, 70.0
FEW_MARKERS = 6
_CLIPPED, _DARK = 250, 70  # grey of the paper
_SLOPE_PAPER = np.array([(u, v) for u in (-6.5, 6.5) for v in np.linspace(-100, 100, 41) if abs(v) > 2])
_CUT, _EDGE = 0.35, 0.03  # shares: of the longer side of the sheet about the mark, and of the picture
_SHAKE_PX2 = 1.0  # how much more variance blur may have along one direction, squared px
_SHAKE_PERIODS = (0.03, 0.26)  # frequencies that tell it, periods a pixel
_NEAR_PX = 3.0
_RATE_OFF, _RATE_ERRORS = 0.04, 3.0  # how far blur may grow otherwise than by the formula: a share, standard errors
_FOCAL_OFF, _LEAST_PERSPECTIVE = 0.2, 1.08
_PRINT_OFF_MM, _SCAN_MM, _EDGE_SHARE = 2.5, 14.0, 0.5
_MISFIT = 3.0
_LEAST_BLUR_PX = 5.0  # at an end of the sheet, from which on it tells how fast blur grows


def doubts_about(grey: Grey, plane: PlaneOnSheet, shot: ShotSettings) -> Iterator[str]:
    """Yield why what was found may be wrong.

    Parameters
    ----------
    grey
        Grey values of the picture, shape (height, width).
    plane
        Where the plane of focus crosses the sheet.
    shot
        How the picture was taken.
    """
    yield from _about_place(plane)
    yield from light_doubt(grey, plane.found, _SLOPE_PAPER)
    yield from _about_shake(grey, plane)
    yield from _about_depth(plane, shot)
    yield from _about_print(grey, plane, shot)
    yield from _about_focal(plane)


def _about_place(plane: PlaneOnSheet) -> Iterator[str]:
    found, slope = plane.found, plane.pose.slope_deg
    if len(found.ids) < FEW_MARKERS:
        yield (
            f"Only {len(found.ids)} of the sheet’s markers could be made out. "
            "Come nearer or bring more of the sheet into the picture."
        )
    if slope < FLAT_DEG:
        yield f"The sheet slopes by {slope:.0f}° only, so that it holds little depth. Look at it from 35° to 60°."
    if slope > STEEP_DEG:
        yield f"The sheet slopes by {slope:.0f}°, so that its detail runs together. Look at it from 35° to 60°."
    mark = found.px(np.array([found.sheet.mark_mm]))[0]
    size = np.array(found.size_px)
    if (mark < _EDGE * size).any() or (mark > (1 - _EDGE) * size).any():
        yield "The mark is not in the picture. Point the camera at it."
    elif cut := _cut(plane):
        yield cut


def _cut(plane: PlaneOnSheet) -> str:
    """Return which side of the sheet is missing, where much less of it can be seen than of the other."""
    found = plane.found
    x, y = found.sheet.mark_mm
    reach = np.linspace(1, 92, 92)
    sides = {
        "in front of the mark": np.column_stack((np.full_like(reach, x), y + reach)),
        "behind the mark": np.column_stack((np.full_like(reach, x), y - reach)),
        "left of the mark": np.column_stack((x - reach, np.full_like(reach, y))),
        "right of the mark": np.column_stack((x + reach, np.full_like(reach, y))),
    }
    seen = {}
    for name, points in sides.items():
        at = found.px(points)
        seen[name] = int(((at >= 0) & (at < np.array(found.size_px))).all(axis=1).sum())
    for one, other in (("in front of the mark", "behind the mark"), ("left of the mark", "right of the mark")):
        less, more = sorted((one, other), key=lambda name: seen[name])
        if seen[less] < _CUT * seen[more]:
            return f"Little of the sheet can be seen {less}. Move the camera so that the mark is nearer to its middle."
    return ""


def light_doubt(grey: Grey, found: FoundSheet, places_mm: Grid) -> Iterator[str]:
    """Yield what is wrong with the exposure, by places of bare paper, from the mark, mm, shape (n, 2).

    Parameters
    ----------
    grey
        Grey values of the picture, shape (height, width).
    found
        The sheet as it lies in the picture.
    places_mm
        Places on the page in mm from the mark, shape (n, 2).
    """
    at = np.rint(found.px(np.array(found.sheet.mark_mm) + places_mm)).astype(int)
    at = at[((at >= 0) & (at < np.array(found.size_px))).all(axis=1)]
    if not len(at):
        return
    paper = float(np.median(grey[at[:, 1], at[:, 0]]))
    if paper >= _CLIPPED:
        yield "The paper is overexposed, and its edges look wider than they are. Expose less."
    elif paper < _DARK:
        yield "The picture is underexposed. Expose more, so that the paper is light grey."


def _about_shake(grey: Grey, plane: PlaneOnSheet) -> Iterator[str]:
    """Blur that is longer one way where the plane of focus lies was not made by the lens."""
    if plane.blurs is None:
        return
    lens = plane.pose.in_lens(plane.blurs.centres_mm)
    off = np.abs(plane.fit.nearness(lens, plane.mark) - 1 / lens[:, 2])
    near = plane.fit.rate * off < _NEAR_PX * plane.per_px
    yield from shake_doubt(grey, plane.found, plane.blurs.centres_mm[near], per_px=plane.per_px)


def shake_doubt(grey: Grey, found: FoundSheet, centres_mm: Grid, *, per_px: int) -> Iterator[str]:
    """Yield that patches where the lens blurs little are blurred more one way; middles on the page, shape (n, 2).

    Parameters
    ----------
    grey
        Grey values of the picture, shape (height, width).
    found
        The sheet as it lies in the picture.
    centres_mm
        Middles of the patches on the page in mm, shape (n, 2).
    per_px
        Pixels of the picture for one of a patch's.
    """
    if len(centres_mm) < 3:
        return
    patches = compare(grey, found, centres_mm, per_px=per_px, side=64, linear=False)
    if len(patches.likeness) < 3:
        return
    variances = _by_direction(patches.kept, patches.variance, patches.frequency)
    if variances is None:
        return
    most = int(variances.argmax())
    more = float(variances[most] - variances.min()) * per_px**2
    if more > _SHAKE_PX2:
        length = math.sqrt(12 * more)
        name = ("level", "falling to the right", "upright", "rising to the right")[most * 4 // SECTORS]
        yield (
            f"The picture shows motion blur of about {length:.0f} px ({name}). "
            "Use a tripod, a self-timer or a shorter time."
        )


def _by_direction(kept: Grid, variance: Grid, frequency: Grid) -> Grid | None:
    """Return the variance of the blur along each direction, squared px of the patches; None where it is not told."""
    weight = 1 / (variance + 1e-4)
    total = (weight * kept).sum(axis=0) / weight.sum(axis=0)  # (sectors, bands)
    used = (frequency > _SHAKE_PERIODS[0]) & (frequency < _SHAKE_PERIODS[1])
    top = float(total[:, used].max())
    if top <= 0:
        return None
    found = []
    for row in total[:, used] / top:
        seen = row > 0.12
        end = int(np.argmin(seen)) if not seen.all() else len(seen)
        if end < 2:
            end = 2
        x, y = 2 * math.pi**2 * frequency[used][:end] ** 2, -np.log(np.maximum(row[:end], 0.05))
        found.append(float(np.polyfit(x, y, 1)[0]))
    return np.array(found)


def _about_depth(plane: PlaneOnSheet, shot: ShotSettings) -> Iterator[str]:
    fit, pose = plane.fit, plane.pose
    blur_mm = _most_blur_px(plane) * pose.pitch_mm
    if blur_mm < shot.blur_mm:
        yield (
            "All of the sheet is sharp by your criterion: depth of field is deeper than the sheet. "
            "Open the stop, or come nearer."
        )
    if fit.misfit > _MISFIT:
        yield "Blur does not grow over the sheet as behind a lens. Lay the sheet flat on something stiff."
    if fit.own_px * pose.pitch_mm * 4 > 2 * shot.blur_mm and fit.own_px > 1.5:
        yield "Even where it is sharpest the picture is softer than your criterion: shaken, or the lens is soft here."


def _most_blur_px(plane: PlaneOnSheet) -> float:
    """Return the diameter of the blur at the end of the detail where it is larger."""
    area = plane.found.sheet.areas[0]
    x = plane.found.sheet.mark_mm[0]
    away = plane.pose.in_lens(np.array([[x, area.y], [x, area.y + area.height]]))[:, 2]
    return float(plane.fit.rate * np.abs(1 / plane.fit.plane_z - 1 / away).max())


def _about_print(grey: Grey, plane: PlaneOnSheet, shot: ShotSettings) -> Iterator[str]:
    sheet = plane.found.sheet
    # Where no corner is seen nothing tells on what paper it was printed: either may fit.
    papers = [sheet.paper] if sheet.corner_ids & set(plane.found.ids) else list(SheetPaper)
    if told := list(size_doubt(grey, plane.found, papers)):
        yield from told
        return
    if shot.stop is None or _most_blur_px(plane) < _LEAST_BLUR_PX:
        return
    off = math.log(plane.fit.rate / plane.expected_rate)
    error = math.sqrt(max(float(plane.fit.covariance[2, 2]), 0.0))
    if abs(off) > _RATE_OFF and abs(off) > _RATE_ERRORS * error:
        yield (
            f"Blur grows {abs(100 * math.expm1(off)):.0f} % {'faster' if off > 0 else 'more slowly'} than stop and "
            "focal length say. Check them, and the 50 mm bar of the print."
        )


def size_doubt(grey: Grey, found: FoundSheet, papers: Sequence[SheetPaper]) -> Iterator[str]:
    """Yield that a sheet was not printed at its size, by the margins of its paper, which is one of some.

    Parameters
    ----------
    grey
        Grey values of the picture, shape (height, width).
    found
        The sheet as it lies in the picture.
    papers
        Kinds of paper it may be printed on.
    """
    offs = [_paper_off(grey, found, one.size_mm) for one in papers]
    moved = min((one for one in offs if one is not None), key=abs, default=None)
    if moved is not None and abs(moved) > _PRINT_OFF_MM:
        share = 100 * (1 - 2 * moved / found.sheet.paper_mm[0])
        yield (
            f"The margins of the paper fit a print at about {share:.0f} % of its size. "
            "Print at 100 %, and measure the bar on it: 50 mm."
        )


def _paper_off(grey: Grey, found: FoundSheet, paper_mm: tuple[float, float]) -> float | None:
    """Return how much wider the margins of the paper are than they should be, mm; None where its edge is not seen."""
    width, height = paper_mm
    origin = np.array(found.sheet.mark_mm) - np.array(paper_mm) / 2
    along = np.linspace(0.15, 0.85, 15)
    out = np.arange(-6.0, _SCAN_MM, 0.25)
    offs = []
    for start, end, normal in (
        ((0, 0), (width, 0), (0, -1)), ((0, height), (width, height), (0, 1)),
        ((0, 0), (0, height), (-1, 0)), ((width, 0), (width, height), (1, 0)),
    ):  # fmt: skip
        base = origin + np.array(start) + along[:, None] * (np.array(end) - np.array(start))
        points = base[:, None, :] + out[None, :, None] * np.array(normal)
        at = np.rint(found.px(points.reshape(-1, 2))).astype(int)
        inside = ((at >= 0) & (at < np.array(found.size_px))).all(axis=1).reshape(points.shape[:2])
        row, column = (np.clip(at[:, k], 0, most - 1) for k, most in ((1, grey.shape[0]), (0, grey.shape[1])))
        values = np.where(inside, grey[row, column].reshape(inside.shape), -1)
        offs += [_edge_at(row, out) for row, seen in zip(values, inside, strict=True) if seen.all()]
    told = [one for one in offs if one is not None]
    if len(offs) < 15 or len(told) < _EDGE_SHARE * len(offs):
        return None
    return float(np.median(told))


def _edge_at(values: NDArray[np.int_], out: Grid) -> float | None:
    """Return where a line of grey values leaves the paper for what it lies on, mm outwards from where it should."""
    smooth = np.convolve(values, np.ones(4) / 4, mode="valid")
    fall = np.abs(smooth[4:] - smooth[:-4])
    k = int(fall.argmax())
    if fall[k] < 25:
        return None
    return float(out[k + 4 + 1] - 0.125)


def _about_focal(plane: PlaneOnSheet) -> Iterator[str]:
    told = focal_px_of(plane.found)
    if told is None or plane.pose.slope_deg < FLAT_DEG:
        return
    y = plane.found.sheet.mark_mm[1]
    ends = plane.pose.in_lens(
        np.array([[plane.found.sheet.mark_mm[0], y - 90], [plane.found.sheet.mark_mm[0], y + 90]])
    )
    if ends[0, 2] / ends[1, 2] < _LEAST_PERSPECTIVE or len(plane.found.ids) < FEW_MARKERS:
        return
    ratio = told * plane.pose.pitch_mm / plane.pose.image_mm
    if abs(math.log(ratio)) > _FOCAL_OFF:
        yield (
            f"The perspective of the sheet fits {ratio:.2g} times the focal length that was said, or the picture was "
            "cropped or is strongly distorted. Check focal length and picture width."
        )
