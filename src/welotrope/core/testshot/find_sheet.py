"""Finding a printed sheet in a picture by its markers."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from welotrope.core.testshot.sheets import DICTIONARY, Sheet, SheetKind, SheetPaper, sheets_of

Points = NDArray[np.float64]
_SIZES_PX = (1600, 3200, 6400)  # longest side markers are looked for at, until enough are found
_ENOUGH = 8
_LEAST_PERIMETER_PX = 24.0  # of a marker, as large as it is looked at
_LEAST = 3
_OFF_SHARE, _OFF_PX = 0.1, 2.0  # how far a corner may lie from where the others say: of the marker's side, and pixels


@dataclass(frozen=True, kw_only=True)
class FoundMarker:
    """A marker in a picture: its number, and its corners from its own top left clockwise, pixels."""

    id: int
    corners_px: Points


@dataclass(frozen=True, kw_only=True)
class FoundSheet:
    """A sheet in a picture.

    Parameters
    ----------
    sheet
        Which it is.
    ids
        The markers that fit.
    to_px
        The homography from its millimetres to pixels, shape (3, 3); the middle of the first pixel is at 0, 0.
    size_px
        Width and height of the picture, pixels.
    """

    sheet: Sheet
    ids: tuple[int, ...]
    to_px: Points
    size_px: tuple[int, int]

    def px(self, points_mm: Points) -> Points:
        """Return where points of the page, shape (n, 2), lie in the picture, pixels."""
        return mapped(self.to_px, points_mm)


def mapped(homography: Points, points: Points) -> Points:
    """Return points, shape (n, 2), taken through a homography.

    Parameters
    ----------
    homography
        Matrix of the mapping, shape (3, 3).
    points
        Points of the plane, shape (n, 2).
    """
    ahead = np.column_stack((points, np.ones(len(points)))) @ homography.T
    return np.asarray(ahead[:, :2] / ahead[:, 2:])


def homography_of(page: Points, seen: Points, *, method: int = 0, allowed: float = 3.0) -> Points | None:
    """Return the homography that takes points of the page to pixels; None when there is none.

    Parameters
    ----------
    page, seen
        Points, shape (n, 2).
    method, allowed
        OpenCV's: 0 for least squares, or one that leaves out what lies off; how far that is, pixels.
    """
    import cv2

    cv2.setRNGSeed(1)  # the same picture always measures the same
    found, _ = cv2.findHomography(page, seen, method, allowed, maxIters=2000, confidence=0.999)
    return None if found is None else np.asarray(found, dtype=np.float64)


def markers_in(picture: NDArray[np.uint8]) -> list[FoundMarker]:
    """Return the markers of a grey picture; looked for at a smaller size first, at its own only where few are found.

    Parameters
    ----------
    picture
        Grey values, shape (height, width), of 8 or 16 bits or as floats.
    """
    import cv2

    longest = max(picture.shape)
    found: list[FoundMarker] = []
    for size in _SIZES_PX:
        scale = min(size / longest, 1.0)
        small = picture if scale == 1.0 else cv2.resize(picture, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
        here = [
            FoundMarker(id=one.id, corners_px=(one.corners_px + 0.5) / scale - 0.5)
            for one in _detected(np.asarray(small))
        ]
        found = here if len(here) >= len(found) else found
        if len(found) >= _ENOUGH or scale == 1.0:
            break
    return found


def _detected(picture: NDArray[np.uint8]) -> list[FoundMarker]:
    import cv2

    options = cv2.aruco.DetectorParameters()
    options.cornerRefinementMethod = cv2.aruco.CORNER_REFINE_SUBPIX
    # Of smaller ones no module can be told, and fine texture is full of such squares.
    options.minMarkerPerimeterRate = _LEAST_PERIMETER_PX / max(picture.shape)
    options.adaptiveThreshWinSizeMin, options.adaptiveThreshWinSizeMax, options.adaptiveThreshWinSizeStep = 5, 35, 15
    dictionary = cv2.aruco.getPredefinedDictionary(getattr(cv2.aruco, DICTIONARY))
    corners, ids, _ = cv2.aruco.ArucoDetector(dictionary, options).detectMarkers(picture)
    if ids is None:
        return []
    return [
        FoundMarker(id=int(id), corners_px=np.asarray(four, dtype=np.float64).reshape(4, 2))
        for id, four in zip(ids.ravel(), corners, strict=True)
    ]


def sheet_of(markers: list[FoundMarker], kind: SheetKind, size_px: tuple[int, int]) -> FoundSheet | None:
    """Return the sheet of a kind that most markers fit; None when fewer than three do.

    Parameters
    ----------
    markers
        Markers found in the picture.
    kind
        Kind of sheet.
    size_px
        Width and height of the picture in pixels.
    """
    best: FoundSheet | None = None
    for paper in SheetPaper:
        for sheet in sheets_of(kind, paper):
            found = _fitted(sheet, markers, size_px)
            if found is not None and (best is None or len(found.ids) > len(best.ids)):
                best = found
    return best


def facing_sheets_in(markers: list[FoundMarker], kind: SheetKind, size_px: tuple[int, int]) -> list[FoundSheet]:
    """Return the sheets of a kind that is looked at straight that can be seen, by their number.

    They stand about their marks alike on both papers, so that it does not matter which was used.

    Parameters
    ----------
    markers
        Markers found in the picture.
    kind
        Kind of sheet.
    size_px
        Width and height of the picture in pixels.
    """
    found = (_fitted(sheet, markers, size_px) for sheet in sheets_of(kind, SheetPaper.A4))
    return [one for one in found if one is not None]


def _fitted(sheet: Sheet, markers: list[FoundMarker], size_px: tuple[int, int]) -> FoundSheet | None:
    """Return where a sheet lies, by the markers that agree; a texture may look like a marker, but not where one is."""
    import cv2

    counts = Counter(one.id for one in markers)
    pairs = [(made, one) for one in markers if counts[one.id] == 1 and (made := sheet.marker(one.id)) is not None]
    if len(pairs) < _LEAST:
        return None
    page = np.concatenate([made.corners_mm for made, _ in pairs])
    seen = np.concatenate([one.corners_px for _, one in pairs])
    side = float(
        np.median([np.linalg.norm(one.corners_px - np.roll(one.corners_px, 1, 0), axis=1).mean() for _, one in pairs])
    )
    allowed = _OFF_PX + _OFF_SHARE * side
    homography = homography_of(page, seen, method=cv2.RANSAC, allowed=allowed)
    for _ in range(2):
        if homography is None:
            return None
        off = np.linalg.norm(mapped(homography, page) - seen, axis=1).reshape(-1, 4).max(axis=1)
        fits = off <= allowed
        if fits.sum() < _LEAST:
            return None
        chosen = fits.repeat(4)
        homography = homography_of(page[chosen], seen[chosen])
    if homography is None:
        return None
    ids = tuple(made.id for (made, _), keep in zip(pairs, fits, strict=True) if keep)
    return FoundSheet(sheet=sheet, ids=ids, to_px=homography, size_px=size_px)
