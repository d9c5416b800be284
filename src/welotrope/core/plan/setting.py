"""What a ring setting gives: plane, limits, window and the hyperfocal setting of a set-up."""

from __future__ import annotations

import math
from dataclasses import dataclass

from welotrope.core.kit.setup import Setup
from welotrope.core.optics.film_zone import FilmZone
from welotrope.core.plan.subjects import Subject
from welotrope.core.ring.window import ring_zone, sharp_window


@dataclass(frozen=True, kw_only=True)
class RingSetting:
    """A ring angle and stop of a set-up; distances in mm from the film plane, angles in degrees from infinity.

    ``per_degree_mm`` is how far the plane moves for 1° of ring or one step of an indicator (half of it either way),
    infinite at infinity; ``degree_nearer_mm`` is where the plane lies that much nearer.
    ``window_mm`` is None when the ring's diameter is not known.
    """

    angle_deg: float
    stop: float
    zone: FilmZone
    window_deg: float
    window_mm: float | None
    per_degree_mm: float
    degree_nearer_mm: float

    @property
    def focus_mm(self) -> float:
        """Plane of focus, mm from the film plane."""
        return self.zone.focus_mm

    @property
    def near_mm(self) -> float:
        """Near limit, mm from the film plane."""
        return self.zone.near_mm

    @property
    def far_mm(self) -> float:
        """Far limit, mm from the film plane; may be infinite."""
        return self.zone.far_mm


def ring_setting(setup: Setup, angle_deg: float, stop: float) -> RingSetting:
    """Return what the set-up gives with the index at ``angle_deg`` and the lens at ``stop``."""
    ring, turn = setup.ring(stop), setup.known.step_deg or 1.0
    window_deg = float(sharp_window(ring, angle_deg, stop, setup.blur_mm).width_deg)
    per_mm = setup.mm_per_degree
    return RingSetting(
        angle_deg=angle_deg, stop=stop, zone=ring_zone(ring, angle_deg, stop, setup.blur_mm), window_deg=window_deg,
        window_mm=None if per_mm is None else window_deg * per_mm, per_degree_mm=ring.travel_mm(angle_deg, turn),
        degree_nearer_mm=float(ring.distance_at_angle(angle_deg + turn)),
    )  # fmt: skip


def angle_with_far_limit(setup: Setup, far_mm: float, stop: float) -> float:
    """Return the ring angle, degrees, that puts ``far_mm`` (may be infinite) on the far mark, within the travel."""
    return setup.ring(stop).angle_with_limit(far_mm, stop, setup.blur_mm, far=True)


def hyperfocal_angle(setup: Setup, stop: float) -> float:
    """Return the ring angle that puts infinity on the far mark of ``stop``, or the nearest to it within the travel."""
    return angle_with_far_limit(setup, math.inf, stop)


def farthest_subject(subjects: tuple[Subject, ...]) -> Subject | None:
    """Return the subject farthest away, or None without subjects."""
    return max(subjects, key=lambda subject: subject.distance_mm, default=None)
