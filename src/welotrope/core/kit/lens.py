"""A manual lens: what is engraved on it and what is known of its ring."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from enum import StrEnum

from welotrope.core.errors import ConflictError, OutOfRangeError, TooCloseError
from welotrope.core.kit.mount import Mount
from welotrope.core.kit.traits import LensFit
from welotrope.core.optics.thin_lens import check_focal, shortest_film_distance
from welotrope.core.ring.focus_ring import check_throw
from welotrope.core.ring.helicoid import Helicoid, ring_mm_per_degree
from welotrope.core.units.distance import Unit
from welotrope.core.units.stops import check_stop

ASSUMED_THROW_DEG = 180.0


class Side(StrEnum):
    """Where infinity lies on the scale, seen from above with the lens pointing away."""

    LEFT = "left"
    RIGHT = "right"


class RingSource(StrEnum):
    """How the ring's travel is known."""

    MEASURED = "measured"
    READING = "one reading"
    ASSUMED = "assumed"


@dataclass(frozen=True)
class RingReading:
    """One engraved distance (mm, film plane) and the ring angle in degrees from infinity at which it sits."""

    angle_deg: float
    distance_mm: float


@dataclass(frozen=True)
class Lens:
    """A manual lens.

    Parameters
    ----------
    name
        As the photographer calls it.
    focal_mm
        Marked focal length, 1 to 5000 mm.
    stops
        Marked stops, widest first.
    closest_mm
        Closest focus from the film plane, mm; at least 4·focal.
    throw_deg
        Measured travel from infinity to closest focus; None when not measured.
    reading
        One ring reading, used for the lead when the throw is not measured.
    infinity_side
        Side of the index on which infinity lies.
    ring_diameter_mm
        Diameter over the grip; None when not measured.
    engraved_units
        Systems engraved on the ring; empty for a lens with no scale.
    engraved_mm
        The engraved distances, mm; empty for a usual set.
    mount
        Its mount; None when not entered.
    fit
        How it is built at the rear.
    """

    name: str
    focal_mm: float
    stops: tuple[float, ...]
    closest_mm: float
    throw_deg: float | None = None
    reading: RingReading | None = None
    infinity_side: Side = Side.RIGHT
    ring_diameter_mm: float | None = None
    engraved_units: tuple[Unit, ...] = (Unit.METRIC, Unit.FEET)
    engraved_mm: tuple[float, ...] = field(default=())
    mount: Mount | None = None
    fit: LensFit = field(default_factory=LensFit)

    def __post_init__(self) -> None:
        check_focal(self.focal_mm)
        for stop in self.stops:
            check_stop(stop, field="marked stops")
        if not self.stops:
            raise ConflictError(
                "marked stops", "", "a lens has at least one stop", "Write the engraved stops, such as 2 2.8 4"
            )
        self._check_closest()
        if self.throw_deg is not None:
            check_throw(self.throw_deg)
        if self.ring_diameter_mm is not None:
            ring_mm_per_degree(self.ring_diameter_mm)
        for distance in self.engraved_mm:
            if distance < self.closest_mm * (1 - 1e-3):
                raise ConflictError(
                    "engraved distances", f"{distance / 1000:g} m", "that is nearer than closest focus",
                    f"Leave it out or correct closest focus ({self.closest_mm / 1000:g} m)",
                )  # fmt: skip
        self.helicoid()

    def _check_closest(self) -> None:
        shortest = shortest_film_distance(self.focal_mm)
        if self.closest_mm < shortest:
            raise TooCloseError(
                "closest focus", f"{self.closest_mm / 1000:g} m",
                f"a {self.focal_mm:g} mm lens needs at least {shortest / 1000:g} m, four times its focal length",
                "Measure from the film plane, not from the front of the lens",
            )  # fmt: skip
        if math.isinf(self.closest_mm) or self.closest_mm > 1e5:
            raise OutOfRangeError(
                "closest focus", "∞" if math.isinf(self.closest_mm) else f"{self.closest_mm / 1000:g} m",
                "a ring must turn nearer than that", "Write the nearest engraved distance, such as 0.45 m",
            )  # fmt: skip

    @property
    def ring_source(self) -> RingSource:
        """How the travel of the ring is known."""
        if self.throw_deg is not None:
            return RingSource.MEASURED
        return RingSource.READING if self.reading is not None else RingSource.ASSUMED

    @property
    def widest(self) -> float:
        """Widest marked stop."""
        return min(self.stops)

    def helicoid(self) -> Helicoid:
        """Return the ring as a plain helicoid: from the throw, else the reading, else an assumed 180° throw."""
        if self.throw_deg is None and self.reading is not None:
            return Helicoid.from_reading(
                self.focal_mm, self.closest_mm, self.reading.angle_deg, self.reading.distance_mm
            )
        return Helicoid.from_closest_focus(self.focal_mm, self.closest_mm, self.throw_deg or ASSUMED_THROW_DEG)

    @property
    def mm_per_degree(self) -> float | None:
        """Surface travel of the ring per degree, mm; None when its diameter is not known."""
        return None if self.ring_diameter_mm is None else ring_mm_per_degree(self.ring_diameter_mm)
