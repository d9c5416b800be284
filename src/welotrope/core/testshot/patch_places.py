"""Where patches of a sheet are looked at, how coarsely, and the sheet put right by where they lie."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from welotrope.core.testshot.blur_fit import Blurs
from welotrope.core.testshot.find_sheet import FoundSheet, homography_of
from welotrope.core.testshot.transfer import Patches

Grid = NDArray[np.float64]
_COARSE_PX = 500  # how long the sheet is in the coarsest patches' pixels, about


def coarsest(found: FoundSheet) -> int:
    """Return pixels of the picture for one of a patch's at which the sheet is some hundred long.

    Parameters
    ----------
    found
        The sheet as it lies in the picture.
    """
    width, height = found.sheet.paper_mm
    outline = found.px(np.array([[0, 0], [width, 0], [width, height], [0, height]]))
    shown = np.clip(outline, 0, np.array(found.size_px))
    long = float(np.ptp(shown, axis=0).max())
    return int(2 ** max(round(math.log2(max(long / _COARSE_PX, 1))), 0))


def middles_of(found: FoundSheet, size_px: int) -> Grid:
    """Return the middles of squares of the picture that lie beside one another on the detail, mm on the page.

    Parameters
    ----------
    found
        The sheet as it lies in the picture.
    size_px
        Length of a square's side in pixels.
    """
    mark = np.array(found.sheet.mark_mm)
    ends = found.px(mark + np.array([[0.0, 0.0], [1.0, 0.0], [0.0, 1.0]]))
    across, along = (size_px / max(float(np.linalg.norm(one - ends[0])), 1e-6) for one in ends[1:])
    points = []
    for area in found.sheet.areas:
        columns, rows = max(int(area.width / across), 1), max(int(area.height / along), 1)
        for column in range(columns):
            x = area.x + area.width * (column + 0.5) / columns
            points += [(x, area.y + area.height * (row + 0.5) / rows) for row in range(rows)]
    centres = np.array(points)
    at = found.px(centres)
    half = size_px / 2 + 1
    return centres[((at >= half) & (at <= np.array(found.size_px) - half)).all(axis=1)]


def put_right(found: FoundSheet, patches: Patches) -> FoundSheet | None:
    """Return the sheet with its homography put right by where coarse patches lie; None when too few tell.

    Parameters
    ----------
    found
        The sheet as it lies in the picture.
    patches
        What was kept of the detail of each patch.
    """
    import cv2

    good = patches.likeness > 0.5
    if good.sum() < 8 or np.ptp(patches.centres_mm[good], axis=0).min() < 15:
        return None
    page = patches.centres_mm[good]
    seen = found.px(page) + patches.shift_px[good]
    homography = homography_of(page, seen, method=cv2.RANSAC, allowed=max(1.0, 0.75 * patches.per_px))
    return None if homography is None else replace(found, to_px=homography)


def put_right_closely(found: FoundSheet, blurs: Blurs, per_px: int) -> FoundSheet | None:
    """Return the sheet with its homography put right by where patches lie that the page was laid on.

    Parameters
    ----------
    found
        The sheet as it lies in the picture.
    blurs
        Blur of each patch, in pixels.
    per_px
        Pixels of the picture for one of a patch's.
    """
    import cv2

    good = (np.abs(blurs.shift_px).max(axis=1) < 1.5 * per_px) & (blurs.contrast > 0.5 * np.median(blurs.contrast))
    if good.sum() < 8 or np.ptp(blurs.centres_mm[good], axis=0).min() < 10:
        return None
    page = blurs.centres_mm[good]
    homography = homography_of(page, found.px(page) + blurs.shift_px[good], method=cv2.LMEDS)
    return None if homography is None else replace(found, to_px=homography)


def moved_by(found: FoundSheet, shifts_px: Grid) -> FoundSheet:
    """Return the sheet moved in the picture by the middle of the shifts of some patches, shape (n, 2).

    Parameters
    ----------
    found
        The sheet as it lies in the picture.
    shifts_px
        How far each patch lies off, in pixels, shape (n, 2).
    """
    move = np.eye(3)
    move[:2, 2] = np.median(shifts_px, axis=0)
    return replace(found, to_px=move @ found.to_px)
