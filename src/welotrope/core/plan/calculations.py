"""The stand-alone calculations that the command line and the JSON API share, on plain values.

Distances are in mm from the datum named; every result repeats the unit in its name; infinity is ``math.inf``.
"""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.optics.datum import Datum, distance_at, extension_at
from welotrope.core.optics.depth import hyperfocal_extension, sharp_limits
from welotrope.core.optics.thin_lens import check_focal
from welotrope.core.plan.zone import plan_zone
from welotrope.core.ring.helicoid import check_lead, ring_mm_per_degree
from welotrope.core.units.stops import FULL_STOPS, MAX_STOP


@dataclass(frozen=True)
class DepthResult:
    """Depth of field; ``spread_mm`` is the extension between the limits, the part past infinity included."""

    focus_mm: float
    near_mm: float
    far_mm: float
    hyperfocal_mm: float
    spread_mm: float


@dataclass(frozen=True)
class ZoneResult:
    """A zone's setting; ``stop_marked`` is None when f/64 does not hold it, achieved limits are then None too."""

    focus_mm: float
    spread_mm: float
    stop_exact: float
    stop_marked: float | None
    achieved_near_mm: float | None
    achieved_far_mm: float | None
    balanced_stop: float


@dataclass(frozen=True)
class RingResult:
    """A ring setting; ``window_mm`` is None when no diameter was given."""

    angle_deg: float
    window_deg: float
    window_mm: float | None


def depth(focal_mm: float, stop: float, blur_mm: float, focus_mm: float, datum: Datum) -> DepthResult:
    """Return near and far limits and the hyperfocal distance, all from ``datum``."""
    f = check_focal(focal_mm)
    limits = sharp_limits(extension_at(focus_mm, f, datum), f, stop, blur_mm)
    return DepthResult(
        focus_mm,
        distance_at(limits.near_x, f, datum),
        distance_at(limits.far_x, f, datum),
        distance_at(hyperfocal_extension(f, stop, blur_mm), f, datum),
        limits.spread,
    )


def zone(
    focal_mm: float,
    near_mm: float,
    far_mm: float,
    blur_mm: float,
    datum: Datum,
    marked: tuple[float, ...] = FULL_STOPS,
) -> ZoneResult:
    """Return the setting that holds ``near_mm`` to ``far_mm``, with the marked stop to use."""
    f = check_focal(focal_mm)
    near_x, far_x = (extension_at(distance, f, datum) for distance in (near_mm, far_mm))
    plan = plan_zone(near_x, far_x, f, blur_mm, marked)
    held = plan.stop_exact <= min(max(marked), MAX_STOP)
    return ZoneResult(
        distance_at(plan.focus_x, f, datum),
        plan.spread,
        plan.stop_exact,
        plan.stop_marked if held else None,
        distance_at(plan.limits.near_x, f, datum) if held else None,
        distance_at(plan.limits.far_x, f, datum) if held else None,
        plan.balanced_stop,
    )


def ring(
    focal_mm: float,
    lead_mm: float,
    stop: float,
    blur_mm: float,
    focus_mm: float,
    datum: Datum,
    diameter_mm: float | None = None,
) -> RingResult:
    """Return where the ring stands for ``focus_mm`` and how wide the sharp window is there."""
    f = check_focal(focal_mm)
    per_mm = 360 / check_lead(lead_mm)
    x = extension_at(focus_mm, f, datum)
    window_deg = sharp_limits(x, f, stop, blur_mm).spread * per_mm
    window_mm = None if diameter_mm is None else window_deg * ring_mm_per_degree(diameter_mm)
    return RingResult(x * per_mm, window_deg, window_mm)
