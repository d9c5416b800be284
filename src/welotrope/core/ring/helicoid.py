"""A plain helicoid: extension grows in proportion to ring angle, ``x = x₀ + θ·L/360``."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from welotrope.core import fields
from welotrope.core.errors import OutOfRangeError
from welotrope.core.optics import thin_lens
from welotrope.core.optics.elementwise import Values, as_given
from welotrope.core.ring.focus_ring import FocusRing, check_throw

MIN_LEAD_MM, MAX_LEAD_MM = 0.05, 500.0


def check_lead(lead_mm: float) -> float:
    """Return ``lead_mm`` when it lies in 0.05 to 500 mm a turn, else raise OutOfRangeError.

    Parameters
    ----------
    lead_mm
        Advance of the helicoid in mm a turn, 0.05 to 500.
    """
    if not MIN_LEAD_MM <= lead_mm <= MAX_LEAD_MM:
        raise OutOfRangeError(
            fields.LEAD, f"{lead_mm:g} mm", "no helicoid has that lead", "Write 0.05 to 500 mm a turn"
        )
    return lead_mm


@dataclass(frozen=True, kw_only=True)
class Helicoid(FocusRing):
    """A ring of lead ``L`` that moves a whole thin lens.

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
    start_mm
        Extension at the ring's zero, mm: 0 when that is infinity, positive when infinity is not reached.
    beyond
        Whether it works at and above life size.
    """

    focal_mm: float
    lead_mm: float
    throw_deg: float
    h_mm: float = 0.0
    start_mm: float = 0.0
    beyond: bool = False

    def __post_init__(self) -> None:
        thin_lens.check_focal(self.focal_mm)
        check_throw(self.throw_deg)
        check_lead(self.lead_mm)

    @classmethod
    def from_closest_focus(
        cls, focal_mm: float, closest_mm: float, throw_deg: float, *, h_mm: float = 0.0, beyond: bool = False
    ) -> Helicoid:
        """Build the helicoid whose end of travel focuses ``closest_mm`` (mm from the film plane).

        It begins at infinity, or at life size when the lens works ``beyond`` it.
        """
        start = focal_mm if beyond else 0.0
        x_end = thin_lens.extension_at_film_distance(closest_mm, focal_mm, h=h_mm, beyond=beyond)
        return cls(
            focal_mm=focal_mm, lead_mm=(x_end - start) * 360 / check_throw(throw_deg), throw_deg=throw_deg, h_mm=h_mm,
            start_mm=start, beyond=beyond,
        )  # fmt: skip

    @classmethod
    def from_reading(
        cls,
        focal_mm: float,
        closest_mm: float,
        angle_deg: float,
        distance_mm: float,
        *,
        h_mm: float = 0.0,
        beyond: bool = False,
    ) -> Helicoid:
        """Build the helicoid on which ``distance_mm`` (film plane) sits ``angle_deg`` from the ring's zero.

        Raises
        ------
        OutOfRangeError
            When the reading is at infinity or within 1° of it: it then says nothing about the lead.
        """
        if math.isinf(distance_mm) or angle_deg < 1:
            raise OutOfRangeError(
                fields.RING_READING, f"{angle_deg:g}°", "a reading at infinity says nothing about the throw",
                "Turn to a nearer engraved distance, at least 1° from infinity",
            )  # fmt: skip
        start = focal_mm if beyond else 0.0
        reached, x_end = (
            thin_lens.extension_at_film_distance(mm, focal_mm, h=h_mm, beyond=beyond) - start
            for mm in (distance_mm, closest_mm)
        )
        lead = check_lead(reached * 360 / angle_deg)
        return cls(
            focal_mm=focal_mm, lead_mm=lead, throw_deg=x_end * 360 / lead, h_mm=h_mm, start_mm=start, beyond=beyond
        )

    def extension_at_angle(self, angle_deg: Values) -> Values:
        """Extension in mm at a ring angle in degrees; negative past infinity."""
        return as_given(self.start_mm + np.asarray(angle_deg) * self.lead_mm / 360, angle_deg)

    def angle_at_extension(self, x: Values) -> Values:
        """Ring angle in degrees at extension ``x`` mm, even outside the travel."""
        return as_given((np.asarray(x) - self.start_mm) * 360 / self.lead_mm, x)

    def degrees_per_mm(self, angle_deg: float) -> float:
        """Degrees of ring for 1 mm of extension: ``360/L`` everywhere."""
        return 360 / self.lead_mm

    def moved(self, extension_mm: float, *, turn_deg: float = 0.0) -> Helicoid:
        """Return the same ring ``extension_mm`` (mm) farther from the film, its settings ``turn_deg`` further on."""
        return replace(self, start_mm=self.start_mm + extension_mm - turn_deg * self.lead_mm / 360)


def ring_mm_per_degree(diameter_mm: float) -> float:
    """Surface travel of a ring of this diameter per degree, ``π·d/360`` mm.

    Parameters
    ----------
    diameter_mm
        Diameter of the ring in mm.

    Examples
    --------
    >>> round(ring_mm_per_degree(60), 4)
    0.5236
    """
    if not 10 <= diameter_mm <= 400:
        raise OutOfRangeError(
            fields.RING_DIAMETER, f"{diameter_mm:g} mm", "no focus ring is that size", "Write 10 to 400 mm"
        )
    return math.pi * diameter_mm / 360
