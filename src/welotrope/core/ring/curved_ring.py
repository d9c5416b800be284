"""Rings that are not a plain helicoid: a monotone curve through readings, and a zoom's ring at another focal length."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

from welotrope.core.errors import ConflictError
from welotrope.core.optics import thin_lens
from welotrope.core.optics.elementwise import FloatArray, Values, as_given
from welotrope.core.ring.focus_ring import FocusRing, check_throw

if TYPE_CHECKING:
    from scipy.interpolate import PchipInterpolator

_INVERSE_STEPS = 4000
_POINTS = 64


@dataclass(frozen=True, kw_only=True)
class CurvedRing(FocusRing):
    """A ring known at readings, with a monotone cubic between them and straight lines beyond them.

    The curve is the piecewise cubic Hermite interpolant of extension over angle (Fritsch and Carlson,
    *SIAM J. Numer. Anal.* 17 (1980) 238), so it never turns back between readings.

    Parameters
    ----------
    focal_mm, throw_deg, h_mm
        As for every ring.
    angles_deg, extensions_mm
        The readings, both strictly increasing, at least two.
    start_mm, turn_deg
        What is added to every extension, and to every setting.
    beyond
        Whether it works at and above life size.
    """

    focal_mm: float
    throw_deg: float
    angles_deg: tuple[float, ...]
    extensions_mm: tuple[float, ...]
    h_mm: float = 0.0
    start_mm: float = 0.0
    turn_deg: float = 0.0
    beyond: bool = False

    def __post_init__(self) -> None:
        thin_lens.check_focal(self.focal_mm)
        check_throw(self.throw_deg)
        angles, extensions = np.diff(self.angles_deg), np.diff(self.extensions_mm)
        if len(self.angles_deg) < 2 or np.any(angles <= 0) or np.any(extensions <= 0):
            raise ConflictError(
                "ring points", "", "extension must grow with angle from point to point",
                "Measure at least two settings, from the infinity end",
            )  # fmt: skip

    def extension_at_angle(self, angle_deg: Values) -> Values:
        """Extension in mm at a ring angle in degrees; negative past infinity."""
        return as_given(self._curve(np.asarray(angle_deg, dtype=np.float64) - self.turn_deg) + self.start_mm, angle_deg)

    def angle_at_extension(self, x: Values) -> Values:
        """Ring angle in degrees at extension ``x`` mm, even outside the travel; exact to a thousandth of a degree."""
        angles, extensions = self._inverse
        wanted = np.asarray(x, dtype=np.float64) - self.start_mm
        low, high = self._end_slopes
        inside = np.interp(wanted, extensions, angles)
        below = angles[0] + (wanted - extensions[0]) / low
        above = angles[-1] + (wanted - extensions[-1]) / high
        found = np.where(wanted < extensions[0], below, np.where(wanted > extensions[-1], above, inside))
        return as_given(found + self.turn_deg, x)

    def degrees_per_mm(self, angle_deg: float) -> float:
        """Degrees of ring for 1 mm of extension at a ring angle, over a degree."""
        lower, upper = (float(self.extension_at_angle(angle_deg + step)) for step in (-0.5, 0.5))
        return 1 / (upper - lower)

    def moved(self, extension_mm: float, *, turn_deg: float = 0.0) -> CurvedRing:
        """Return the same ring ``extension_mm`` (mm) farther from the film, its settings ``turn_deg`` further on."""
        return replace(self, start_mm=self.start_mm + extension_mm, turn_deg=self.turn_deg + turn_deg)

    def _curve(self, angles: FloatArray) -> FloatArray:
        first, last = self.angles_deg[0], self.angles_deg[-1]
        low, high = self._end_slopes
        inside = np.asarray(self._interpolant(np.clip(angles, first, last)), dtype=np.float64)
        return inside + np.minimum(angles - first, 0) * low + np.maximum(angles - last, 0) * high

    @cached_property
    def _interpolant(self) -> PchipInterpolator:
        from scipy.interpolate import PchipInterpolator  # slow to import; few rings need it

        return PchipInterpolator(self.angles_deg, self.extensions_mm)

    @cached_property
    def _end_slopes(self) -> tuple[float, float]:
        """Slopes in mm per degree with which the line goes on: those of the outermost chords, never flat."""
        angles, extensions = np.array(self.angles_deg), np.array(self.extensions_mm)
        slopes = np.diff(extensions) / np.diff(angles)
        return float(slopes[0]), float(slopes[-1])

    @cached_property
    def _inverse(self) -> tuple[FloatArray, FloatArray]:
        angles = np.linspace(self.angles_deg[0], self.angles_deg[-1], _INVERSE_STEPS)
        grid = np.unique(np.concatenate([angles, np.array(self.angles_deg)]))
        return grid, np.asarray(self._interpolant(grid), dtype=np.float64)


def zoomed_separation(h_mm: float, long_mm: float, focal_mm: float) -> float:
    """Return the separation of the principal planes of a zoom at another focal length; all mm.

    With ``x`` in proportion to the square of the focal length and the distance ``D = f²/x + 2f + x + h`` kept,
    ``h`` grows by twice what the focal length loses (``x`` being small beside it).

    Parameters
    ----------
    h_mm
        Separation of the principal planes in mm at the long end.
    long_mm
        Focal length in mm at the long end.
    focal_mm
        Focal length in mm that it is wanted at.
    """
    return h_mm + 2 * (long_mm - focal_mm)


def ring_at_focal(ring: FocusRing, past_mm: float, focal_mm: float, moved_mm: float) -> CurvedRing:
    """Return a ring at another focal length, mm.

    Parameters
    ----------
    ring
        The ring at the focal length it was read at.
    past_mm
        What of its extension is not the lens's own, such as an adapter's error, mm.
    focal_mm
        The other focal length, mm.
    moved_mm
        What the image is moved by at the other focal length, mm, as an extension.

    Notes
    -----
    A group in front of the one that zooms makes of every distance an image at the same place, so the distances of
    the ring are kept, and a slip of it moves the final image by the square of the focal length.
    """
    h = zoomed_separation(ring.h_mm, ring.focal_mm, focal_mm)
    angles = np.linspace(0.0, ring.throw_deg, _POINTS)
    own = np.asarray(ring.extension_at_angle(angles), dtype=np.float64) - past_mm
    extensions = own * (focal_mm / ring.focal_mm) ** 2
    near = own > 0
    distances = thin_lens.film_distance_at_extension(own[near], ring.focal_mm, h=ring.h_mm)
    extensions[near] = thin_lens.extension_at_film_distance(distances, focal_mm, h=h)
    return CurvedRing(
        focal_mm=focal_mm, throw_deg=ring.throw_deg, angles_deg=tuple(angles.tolist()),
        extensions_mm=tuple(extensions.tolist()), h_mm=h, start_mm=moved_mm,
    )  # fmt: skip
