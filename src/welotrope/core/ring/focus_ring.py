"""What every focus ring can answer, however its angle and its extension go together.

Angles are degrees from the ring's own zero, its infinity stop. Extension is counted from true infinity: on a
ring that is off, the zero has an extension of its own, positive when infinity is not reached.
"""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from functools import cached_property

from welotrope.core import fields
from welotrope.core.errors import OutOfRangeError, TooCloseError
from welotrope.core.optics import thin_lens
from welotrope.core.optics.depth import extension_with_limit
from welotrope.core.optics.elementwise import Values
from welotrope.core.units.distance import format_feet, format_metric

MIN_THROW_DEG, MAX_THROW_DEG = 5.0, 1080.0
_SAME = 1e-6


def check_throw(throw_deg: float) -> float:
    """Return ``throw_deg`` when it lies in 5 to 1080°, else raise OutOfRangeError.

    Parameters
    ----------
    throw_deg
        Whole turn of the ring in degrees, 5 to 1080.
    """
    if not MIN_THROW_DEG <= throw_deg <= MAX_THROW_DEG:
        raise OutOfRangeError(
            fields.THROW, f"{throw_deg:g}°", "no focus ring turns that far",
            "Write 5° to 1080°; most lenses turn 60° to 300°",
        )  # fmt: skip
    return throw_deg


class FocusRing(ABC):
    """A focus ring: ring angle (degrees) to extension (mm) to film-plane distance (mm) and back.

    Parameters
    ----------
    focal_mm
        Focal length, mm.
    throw_deg
        Travel from zero to the end at closest focus, degrees.
    h_mm
        Separation of the principal planes, mm.
    beyond
        Whether the lens works at and above life size: of the two extensions that focus a distance, the larger.
    """

    focal_mm: float
    throw_deg: float
    h_mm: float
    beyond: bool

    @abstractmethod
    def extension_at_angle(self, angle_deg: Values) -> Values:
        """Extension in mm at a ring angle; negative past infinity."""

    @abstractmethod
    def angle_at_extension(self, x: Values) -> Values:
        """Ring angle in degrees at extension ``x`` mm, even outside the travel."""

    @abstractmethod
    def degrees_per_mm(self, angle_deg: float) -> float:
        """Degrees of ring for 1 mm of extension at a ring angle."""

    @abstractmethod
    def moved(self, extension_mm: float, *, turn_deg: float = 0.0) -> FocusRing:
        """Return the same ring ``extension_mm`` (mm) farther from the film, its settings ``turn_deg`` further on."""

    def distance_at_angle(self, angle_deg: Values) -> Values:
        """Film-plane distance in mm focused at a ring angle; infinite at true infinity and past it."""
        return thin_lens.film_distance_at_extension(self.extension_at_angle(angle_deg), self.focal_mm, h=self.h_mm)

    def vergence_at_angle(self, angle_deg: Values) -> Values:
        """Reciprocal film-plane distance in 1/mm at a ring angle; 0 at infinity, negative past it."""
        return thin_lens.vergence_at_extension(self.extension_at_angle(angle_deg), self.focal_mm, h=self.h_mm)

    def angle_at_vergence(self, vergence: Values) -> Values:
        """Ring angle in degrees that focuses a reciprocal film-plane distance in 1/mm, even outside the travel."""
        return self.angle_at_extension(
            thin_lens.extension_at_vergence(vergence, self.focal_mm, h=self.h_mm, beyond=self.beyond)
        )

    def angle_at_distance(self, distance_mm: Values) -> Values:
        """Ring angle in degrees that focuses a film-plane distance, even outside the travel."""
        return self.angle_at_extension(self.extension_at_distance(distance_mm))

    def extension_at_distance(self, distance_mm: Values) -> Values:
        """Extension in mm that focuses a film-plane distance, on the side of life size the lens works on."""
        return thin_lens.extension_at_film_distance(distance_mm, self.focal_mm, h=self.h_mm, beyond=self.beyond)

    def angle_with_limit(self, distance_mm: float, N: float, c: float, *, far: bool) -> float:
        """Ring angle in degrees that puts the far (or near) limit on a distance, or the nearest within the travel."""
        x = extension_with_limit(distance_mm, self.focal_mm, N, c, far=far, h=self.h_mm, beyond=self.beyond)
        return self.clamp(float(self.angle_at_extension(x)))

    @property
    def travel_x(self) -> tuple[float, float]:
        """Least and greatest extension within the travel, mm."""
        return float(self.extension_at_angle(0.0)), float(self.extension_at_angle(self.throw_deg))

    def clamp(self, angle_deg: float) -> float:
        """Return the angle in degrees within the travel that is nearest to ``angle_deg``."""
        return min(max(angle_deg, 0.0), self.throw_deg)

    @property
    def closest_mm(self) -> float:
        """Nearest film-plane distance in mm within the travel."""
        return min(self._end_distances)

    @property
    def farthest_mm(self) -> float:
        """Farthest film-plane distance in mm within the travel; infinite when infinity is reached."""
        return max(self._end_distances)

    @cached_property
    def _end_distances(self) -> tuple[float, float]:
        return float(self.distance_at_angle(0.0)), float(self.distance_at_angle(self.throw_deg))

    @property
    def infinity_deg(self) -> float:
        """Ring angle of true infinity in degrees; negative when the ring does not reach it."""
        return float(self.angle_at_extension(0.0))

    def check_near(self, distance_mm: float, *, field: str = "distance", read: str | None = None) -> float:
        """Return ``distance_mm``, mm, when it is not nearer than closest focus, else raise TooCloseError."""
        closest = self.closest_mm
        if distance_mm < closest * (1 - _SAME):
            raise TooCloseError(
                field, format_metric(distance_mm) if read is None else read, "this lens does not focus so near",
                f"Give {format_metric(closest)} ({format_feet(closest)}) or more; that is its closest focus, measured"
                " from the film plane",
            )  # fmt: skip
        return distance_mm

    def check_reach(self, distance_mm: float, *, field: str = "distance", read: str | None = None) -> float:
        """Return ``distance_mm``, mm, when the ring reaches it.

        Raises
        ------
        TooCloseError, OutOfRangeError
            When it is nearer than closest focus, or beyond the farthest distance of a ring short of infinity.
        """
        self.check_near(distance_mm, field=field, read=read)
        farthest = self.farthest_mm
        if distance_mm > farthest * (1 + _SAME):
            raise OutOfRangeError(
                field, format_metric(distance_mm) if read is None else read, "this ring does not reach so far",
                f"Give {format_metric(farthest)} ({format_feet(farthest)}) or less, the farthest it focuses",
            )  # fmt: skip
        return distance_mm

    def setting_for(self, distance_mm: float) -> float:
        """Return the angle in degrees within the travel that comes nearest to focusing a film-plane distance."""
        nearest = max(distance_mm, thin_lens.shortest_film_distance(self.focal_mm, h=self.h_mm))
        return self.clamp(float(self.angle_at_distance(nearest)))

    def travel_mm(self, angle_deg: float, *, turn_deg: float = 1.0) -> float:
        """How far the plane moves for ``turn_deg`` of ring, half of it either way, mm; infinite next to infinity."""
        farther, nearer = (float(self.distance_at_angle(angle_deg + turn_deg * side)) for side in (-0.5, 0.5))
        return farther - nearer if math.isfinite(nearer) else math.inf
