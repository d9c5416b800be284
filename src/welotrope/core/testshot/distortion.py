"""Distortion of a picture, from the markers of a sheet, and the picture without it.

Behind a lens without distortion a flat sheet is a homography of its page. What marker corners leave of the best one
grows with the cube of their distance from the middle where the lens distorts: of a place ``p`` from the middle, in half
diagonals, ``p (1 + k p²)`` is where it would lie without (Brown's model with its first term).
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from welotrope.core.optics.elementwise import AnyArray
from welotrope.core.testshot.find_sheet import FoundMarker, FoundSheet, homography_of, mapped

Points = NDArray[np.float64]
STRONG = 0.15  # share of the half diagonal by which its end is moved, from which on one term is not enough
_MOST, _LEAST_PLACES = 0.6, 8
_SURE, _LEAST_PX = 30.0, 0.4  # how much less must be left, as an F ratio; how far it moves a corner of the sheet, px
_GRID_PX, _ROUNDS, _FARTHEST = 32, 12, 1.5


@dataclass(frozen=True, kw_only=True)
class Distortion:
    """How a picture is distorted: ``k`` of the model, and its size, px."""

    k: float
    size_px: tuple[int, int]

    @property
    def _middle(self) -> Points:
        return (np.array(self.size_px, dtype=np.float64) - 1) / 2

    @property
    def _half(self) -> float:
        return float(np.hypot(*self.size_px)) / 2

    def without(self, places_px: Points) -> Points:
        """Return where places of the picture would lie without distortion, px, shape (n, 2)."""
        off = (places_px - self._middle) / self._half
        return np.asarray(self._middle + self._half * off * (1 + self.k * (off**2).sum(axis=-1, keepdims=True)))

    def within(self, places_px: Points) -> Points:
        """Return where places without distortion lie in the picture, px, shape (n, 2)."""
        meant = (places_px - self._middle) / self._half
        far = np.linalg.norm(meant, axis=-1, keepdims=True)
        near = far.copy()
        for _ in range(_ROUNDS):  # Newton's; a place beyond where the model folds over stays within the picture
            near -= (near * (1 + self.k * near**2) - far) / np.maximum(1 + 3 * self.k * near**2, 0.1)
            near = np.clip(near, 0.0, _FARTHEST)
        return np.asarray(self._middle + self._half * meant * near / np.maximum(far, 1e-12))

    def straightened(self, picture: AnyArray) -> AnyArray:
        """Return the picture without distortion, of the same size."""
        import cv2

        width, height = self.size_px
        across, down = (np.linspace(0, side - 1, max(side // _GRID_PX, 8)) for side in (width, height))
        grid = np.stack(np.meshgrid(across, down), axis=-1)
        coarse = self.within(grid.reshape(-1, 2)).reshape(grid.shape).astype(np.float32)
        # From corner to corner: what cv2.resize does to the pixels of the grid lies half a cell within.
        scale = [(len(steps) - 1) / (side - 1) for steps, side in ((across, width), (down, height))]
        to_grid = np.array([[scale[0], 0, 0], [0, scale[1], 0]], dtype=np.float64)
        places = cv2.warpAffine(
            coarse, to_grid, (width, height), flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
            borderMode=cv2.BORDER_REPLICATE,
        )  # fmt: skip
        x, y = (np.ascontiguousarray(places[:, :, axis]) for axis in (0, 1))
        return np.asarray(cv2.remap(picture, x, y, cv2.INTER_LANCZOS4, borderMode=cv2.BORDER_REPLICATE))

    def marker_without(self, marker: FoundMarker) -> FoundMarker:
        """Return a marker where it would lie without distortion."""
        return replace(marker, corners_px=self.without(marker.corners_px))


def distortion_of_markers(markers: list[FoundMarker], found: FoundSheet) -> Distortion | None:
    """Return how a picture is distorted by its markers and the sheet among them; None as in :func:`distortion_by`.

    Parameters
    ----------
    markers
        Markers found in the picture.
    found
        The sheet as it lies in the picture.
    """
    pairs = [(made, one) for one in markers if one.id in found.ids and (made := found.sheet.marker(one.id)) is not None]
    page = np.array([(made.x, made.y) for made, _ in pairs]).reshape(-1, 2)
    seen = np.array([_middle(one.corners_px) for _, one in pairs]).reshape(-1, 2)
    return distortion_by(page, seen, found.size_px)


def distortion_by(page_mm: Points, seen_px: Points, size_px: tuple[int, int]) -> Distortion | None:
    """Return how a picture is distorted; None where the places do not tell, or tell of none.

    Parameters
    ----------
    page_mm, seen_px
        Places on the page, mm, and in the picture, px; shape (n, 2).
    size_px
        Of the picture.
    """
    from scipy.optimize import minimize_scalar

    if len(page_mm) < _LEAST_PLACES:
        return None

    def left(k: float) -> float:
        straight = Distortion(k=k, size_px=size_px).without(seen_px)
        homography = homography_of(page_mm, straight)
        return np.inf if homography is None else float(((mapped(homography, page_mm) - straight) ** 2).sum())

    best = minimize_scalar(left, bounds=(-_MOST, _MOST), method="bounded", options={"xatol": 1e-4})
    told, least = Distortion(k=float(best.x), size_px=size_px), max(float(best.fun), 1e-9)
    ratio = (left(0.0) - least) / (least / (2 * len(seen_px) - 9))
    moved = np.linalg.norm(told.without(seen_px) - seen_px, axis=1).max()
    return told if ratio > _SURE and moved > _LEAST_PX else None


def _middle(corners: Points) -> Points:
    """Return where the diagonals of a marker cross: blur moves its edges, but all of them alike."""
    a, b, c, d = np.column_stack((corners, np.ones(4)))
    x, y, w = np.cross(np.cross(a, c), np.cross(b, d))
    return np.array([x / w, y / w])
