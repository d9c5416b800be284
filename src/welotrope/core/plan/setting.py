"""What a ring setting gives: plane, limits, window and the hyperfocal setting of a set-up."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.kit.setup import Setup
from welotrope.core.optics.depth import extension_with_far_limit, hyperfocal_extension
from welotrope.core.optics.thin_lens import extension_at_film_distance
from welotrope.core.plan.subjects import Subject
from welotrope.core.ring.window import sharp_window


@dataclass(frozen=True)
class RingSetting:
    """A ring angle and stop of a set-up; distances in mm from the film plane, angles in degrees from infinity.

    ``per_degree_mm`` is how far the plane moves for 1° of ring or one step of an indicator (half of it either way),
    infinite at infinity; ``degree_nearer_mm`` is where the plane lies that much nearer.
    ``window_mm`` is None when the ring's diameter is not known.
    """

    angle_deg: float
    stop: float
    focus_mm: float
    near_mm: float
    far_mm: float
    window_deg: float
    window_mm: float | None
    per_degree_mm: float
    degree_nearer_mm: float


def ring_setting(setup: Setup, angle_deg: float, stop: float) -> RingSetting:
    """Return what the set-up gives with the index at ``angle_deg`` and the lens at ``stop``."""
    ring, turn = setup.ring(stop), setup.known.step_deg or 1.0
    window = sharp_window(ring, angle_deg, stop, setup.blur_mm)
    per_mm = setup.mm_per_degree
    return RingSetting(
        angle_deg,
        stop,
        ring.distance_at_angle(angle_deg),
        ring.distance_at_angle(window.near_deg),
        ring.distance_at_angle(window.far_deg),
        window.width_deg,
        None if per_mm is None else window.width_deg * per_mm,
        ring.travel_mm(angle_deg, turn),
        ring.distance_at_angle(angle_deg + turn),
    )


def hyperfocal_angle(setup: Setup, stop: float) -> float:
    """Return the ring angle that puts infinity on the far mark of ``stop``, or the nearest to it within the travel."""
    ring = setup.ring(stop)
    return ring.clamp(ring.angle_at_extension(hyperfocal_extension(ring.focal_mm, stop, setup.blur_mm)))


def angle_with_far_limit(setup: Setup, far_mm: float, stop: float) -> float:
    """Return the ring angle that puts ``far_mm`` (film plane, may be infinite) on the far mark, within the travel."""
    ring = setup.ring(stop)
    far_x = extension_at_film_distance(far_mm, ring.focal_mm, ring.h_mm)
    x = extension_with_far_limit(far_x, ring.focal_mm, stop, setup.blur_mm)
    return ring.clamp(ring.angle_at_extension(x))


def farthest_subject(subjects: tuple[Subject, ...]) -> Subject | None:
    """Return the subject farthest away, or None without subjects."""
    return max(subjects, key=lambda subject: subject.distance_mm, default=None)
