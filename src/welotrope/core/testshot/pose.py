"""How a camera stood before a sheet: the pinhole behind the picture, from the sheet's homography."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from welotrope.core.testshot.find_sheet import FoundSheet

Matrix = NDArray[np.float64]


@dataclass(frozen=True, kw_only=True)
class Pose:
    """Where a sheet lies before the lens; lengths mm, the lens's axes: right, down, away.

    Parameters
    ----------
    rotation, shift
        Page to lens: ``rotation @ (x, y, 0) + shift``.
    image_mm
        From the lens to the image, mm.
    pitch_mm
        From pixel to pixel, mm.
    """

    rotation: Matrix
    shift: Matrix
    image_mm: float
    pitch_mm: float

    def in_lens(self, points_mm: Matrix) -> Matrix:
        """Return points of the page, shape (n, 2), as seen from the lens, shape (n, 3)."""
        return np.asarray(points_mm @ self.rotation[:, :2].T + self.shift)

    @property
    def slope_deg(self) -> float:
        """Angle between the sheet and the film, degrees, 0 to 90."""
        return math.degrees(math.acos(min(abs(float(self.rotation[2, 2])), 1.0)))

    @property
    def nearness_slope(self) -> Matrix:
        """How the reciprocal distance of the sheet changes from pixel to pixel, right and down, 1/mm."""
        normal = self.rotation[:, 2] / float(self.rotation[:, 2] @ self.shift)
        return np.asarray(normal[:2] * self.pitch_mm / self.image_mm)

    @property
    def slant_per_px(self) -> float:
        """How much the reciprocal distance of the sheet changes from pixel to pixel at most, 1/mm."""
        return float(np.hypot(*self.nearness_slope))


def pose_of(found: FoundSheet, *, focal_mm: float, width_mm: float, focus: float = 1.0) -> Pose:
    """Return how the camera stood.

    A lens focused near stands farther from the film than its focal length: by f(1 + m) at magnification m, which the
    size of the sheet in the picture tells.

    Parameters
    ----------
    found
        The sheet in the picture.
    focal_mm, width_mm
        Focal length, and length of the longer side of the picture on the film.
    focus
        Distance of the plane of focus as a multiple of that of the mark, a pure number.
    """
    pitch = width_mm / max(found.size_px)
    image = focal_mm
    for _ in range(4):
        pose = _decomposed(found, image / pitch, pitch, image)
        away = float(pose.in_lens(np.array([found.sheet.mark_mm]))[0, 2])
        image = focal_mm * (1 + image / away / focus)
    return _decomposed(found, image / pitch, pitch, image)


def pose_at(found: FoundSheet, *, image_mm: float, width_mm: float) -> Pose:
    """Return how the camera stood, with the film at a known distance from the lens; mm.

    Parameters
    ----------
    found
        The sheet as it lies in the picture.
    image_mm
        Image distance in mm.
    width_mm
        Width of the picture on the sensor in mm.
    """
    pitch = width_mm / max(found.size_px)
    return _decomposed(found, image_mm / pitch, pitch, image_mm)


def _decomposed(found: FoundSheet, focal_px: float, pitch_mm: float, image_mm: float) -> Pose:
    width, height = found.size_px
    camera = np.array([[focal_px, 0, (width - 1) / 2], [0, focal_px, (height - 1) / 2], [0, 0, 1]])
    held = np.linalg.solve(camera, found.to_px)
    held /= math.sqrt(float(np.linalg.norm(held[:, 0]) * np.linalg.norm(held[:, 1])))
    if held[2, 2] < 0:
        held = -held
    u, _, vt = np.linalg.svd(np.column_stack((held[:, 0], held[:, 1], np.cross(held[:, 0], held[:, 1]))))
    rotation = u @ np.diag([1, 1, float(np.linalg.det(u @ vt))]) @ vt
    return Pose(rotation=rotation, shift=held[:, 2], image_mm=image_mm, pitch_mm=pitch_mm)


def shared_plane(sheets: Sequence[tuple[FoundSheet, Matrix]], *, image_mm: float, width_mm: float) -> Matrix:
    """Return the plane that sheets lie on: the dot product with a ray (right, down, 1) is its nearness, 1/mm.

    A sheet alone tells its distance well, by its size, but its lean badly. Of a plane at right angles to ``n`` and at
    ``d`` from the lens the area of a piece at depth ``z`` is shown ``F² d / z³`` times as large, F the image distance;
    since ``z = d / (n · ray)``, the cube root of that is even in the ray, and tells ``n`` and ``d`` of all sheets.

    Parameters
    ----------
    sheets
        Each sheet in the picture, with places on its page, mm, shape (n, 2), where it is well known.
    image_mm, width_mm
        From the lens to the film, and the longer side of the picture.
    """
    size = sheets[0][0].size_px
    away_px = image_mm * max(size) / width_mm
    rays, roots = [], []
    for found, places in sheets:
        at = (found.px(places) - (np.array(size) - 1) / 2) / away_px
        rays.append(np.column_stack((at, np.ones(len(at)))))
        ahead = np.column_stack((places, np.ones(len(places)))) @ found.to_px[2]
        roots.append(np.cbrt(np.linalg.det(found.to_px) / ahead**3))
    slope = np.linalg.lstsq(np.concatenate(rays), np.concatenate(roots), rcond=None)[0]
    long = float(np.linalg.norm(slope))
    return np.asarray(slope / long * long**1.5 / away_px)


def focal_px_of(found: FoundSheet) -> float | None:
    """Return the image distance that the perspective of a sheet tells, px; None where it runs too little together.

    Parameters
    ----------
    found
        The sheet as it lies in the picture.
    """
    width, height = found.size_px
    centred = np.array([[1, 0, -(width - 1) / 2], [0, 1, -(height - 1) / 2], [0, 0, 1]]) @ found.to_px
    a, b = centred[:, 0], centred[:, 1]
    # Both columns are images of directions at right angles and equally long.
    across = np.array([a[0] * b[0] + a[1] * b[1], a[0] ** 2 + a[1] ** 2 - b[0] ** 2 - b[1] ** 2])
    away = np.array([a[2] * b[2], a[2] ** 2 - b[2] ** 2])
    weight = float(away @ away)
    if weight == 0:
        return None
    squared = -float(across @ away) / weight
    return math.sqrt(squared) if squared > 0 else None
