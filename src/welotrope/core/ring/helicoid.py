"""A plain helicoid: extension grows in proportion to ring angle, ``x = θ·L/360``."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from welotrope.core.errors import OutOfRangeError, TooCloseError
from welotrope.core.optics import thin_lens
from welotrope.core.optics.elementwise import Values, as_given
from welotrope.core.units.distance import format_feet, format_metric

MIN_THROW_DEG, MAX_THROW_DEG = 5.0, 1080.0
MIN_LEAD_MM, MAX_LEAD_MM = 0.05, 500.0


def check_throw(throw_deg: float) -> float:
    """Return ``throw_deg`` when it lies in 5 to 1080°, else raise OutOfRangeError."""
    if not MIN_THROW_DEG <= throw_deg <= MAX_THROW_DEG:
        raise OutOfRangeError(
            "throw", f"{throw_deg:g}°", "no focus ring turns that far",
            "Write 5° to 1080°; most lenses turn 60° to 300°",
        )  # fmt: skip
    return throw_deg


def check_lead(lead_mm: float) -> float:
    """Return ``lead_mm`` when it lies in 0.05 to 500 mm a turn, else raise OutOfRangeError."""
    if not MIN_LEAD_MM <= lead_mm <= MAX_LEAD_MM:
        raise OutOfRangeError("lead", f"{lead_mm:g} mm", "no helicoid has that lead", "Write 0.05 to 500 mm a turn")
    return lead_mm


@dataclass(frozen=True)
class Helicoid:
    """A ring of lead ``L`` that moves a whole thin lens; θ = 0 at infinity.

    Parameters
    ----------
    focal_mm
        Focal length, mm.
    lead_mm
        Extension per full turn, mm.
    throw_deg
        Travel from infinity to closest focus, degrees.
    h_mm
        Separation of the principal planes, mm.
    """

    focal_mm: float
    lead_mm: float
    throw_deg: float
    h_mm: float = 0.0

    def __post_init__(self) -> None:
        thin_lens.check_focal(self.focal_mm)
        check_throw(self.throw_deg)
        check_lead(self.lead_mm)

    @classmethod
    def from_closest_focus(cls, focal_mm: float, closest_mm: float, throw_deg: float, h_mm: float = 0.0) -> Helicoid:
        """Build the helicoid whose end of travel focuses ``closest_mm`` (mm from the film plane)."""
        x_end = thin_lens.extension_at_film_distance(closest_mm, focal_mm, h_mm)
        return cls(focal_mm, x_end * 360 / check_throw(throw_deg), throw_deg, h_mm)

    @classmethod
    def from_reading(
        cls, focal_mm: float, closest_mm: float, angle_deg: float, distance_mm: float, h_mm: float = 0.0
    ) -> Helicoid:
        """Build the helicoid on which ``distance_mm`` (film plane) sits ``angle_deg`` from infinity.

        Raises
        ------
        OutOfRangeError
            When the reading is at infinity or within 1° of it: it then says nothing about the lead.
        """
        if math.isinf(distance_mm) or angle_deg < 1:
            raise OutOfRangeError(
                "ring reading", f"{angle_deg:g}°", "a reading at infinity says nothing about the throw",
                "Turn to a nearer engraved distance, at least 1° from infinity",
            )  # fmt: skip
        lead = check_lead(thin_lens.extension_at_film_distance(distance_mm, focal_mm, h_mm) * 360 / angle_deg)
        x_end = thin_lens.extension_at_film_distance(closest_mm, focal_mm, h_mm)
        return cls(focal_mm, lead, x_end * 360 / lead, h_mm)

    def extension_at_angle(self, angle_deg: Values) -> Values:
        """Extension in mm at a ring angle in degrees from infinity."""
        return as_given(np.asarray(angle_deg) * self.lead_mm / 360, angle_deg)

    def angle_at_extension(self, x: Values) -> Values:
        """Ring angle in degrees from infinity at extension ``x`` mm; negative past infinity."""
        return as_given(np.asarray(x) * 360 / self.lead_mm, x)

    def distance_at_angle(self, angle_deg: Values) -> Values:
        """Film-plane distance in mm focused at a ring angle; infinite at 0 and past it."""
        return thin_lens.film_distance_at_extension(self.extension_at_angle(angle_deg), self.focal_mm, self.h_mm)

    def angle_at_distance(self, distance_mm: Values) -> Values:
        """Ring angle in degrees that focuses a film-plane distance, even beyond the end of travel."""
        x = thin_lens.extension_at_film_distance(distance_mm, self.focal_mm, self.h_mm)
        return self.angle_at_extension(x)

    @property
    def closest_mm(self) -> float:
        """Film-plane distance in mm at the end of travel."""
        return self.distance_at_angle(self.throw_deg)

    def check_reach(self, distance_mm: float, *, field: str = "distance", read: str | None = None) -> float:
        """Return ``distance_mm`` when the ring reaches it, else raise TooCloseError naming closest focus."""
        closest = self.closest_mm
        if distance_mm < closest * (1 - 1e-6):
            raise TooCloseError(
                field, format_metric(distance_mm) if read is None else read, "the ring stops before that",
                f"Give {format_metric(closest)} ({format_feet(closest)}) or more, this lens's closest focus",
            )  # fmt: skip
        return distance_mm


def ring_mm_per_degree(diameter_mm: float) -> float:
    """Surface travel of a ring of this diameter per degree, ``π·d/360`` mm."""
    if not 10 <= diameter_mm <= 400:
        raise OutOfRangeError(
            "ring diameter", f"{diameter_mm:g} mm", "no focus ring is that size", "Write 10 to 400 mm"
        )
    return math.pi * diameter_mm / 360
