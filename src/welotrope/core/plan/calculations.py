"""The stand-alone calculations that the command line and the JSON API share, on plain values.

Distances are in mm from the datum named; every result repeats the unit in its name; infinity is ``math.inf``.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from welotrope.core.optics.depth import hyperfocal_extension, sharp_limits
from welotrope.core.optics.sharpness import ImageFormat, SharpnessStandard
from welotrope.core.optics.thin_lens import (
    Datum,
    check_focal,
    distance_at,
    distance_of_image,
    extension_at,
)
from welotrope.core.optics.turning import sharp_turning
from welotrope.core.plan.zone import ZoneVerdict, plan_film_zone, plan_zone
from welotrope.core.ring.calibration import calibrate
from welotrope.core.ring.depth_marks import MarkReading, blur_of_reading, stops_from_standard
from welotrope.core.ring.helicoid import check_lead, ring_mm_per_degree
from welotrope.core.ring.survey import MeasuredFrom, Point, Survey, SurveyKind
from welotrope.core.units.exposure import FULL_STOPS


@dataclass(frozen=True)
class DepthResult:
    """Depth of field; ``spread_mm`` is the extension between the limits, the part past infinity included."""

    focus_mm: float
    near_mm: float
    far_mm: float
    hyperfocal_mm: float
    spread_mm: float


@dataclass(frozen=True, kw_only=True)
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
    """Return near and far limits and the hyperfocal distance, mm, all from ``datum``.

    Parameters
    ----------
    focal_mm
        Focal length in mm, 1 to 5000.
    stop
        F-number, 0.5 to 128.
    blur_mm
        Acceptable blur diameter in mm, 0.0001 to 2.
    focus_mm
        Distance in mm that is focused on.
    datum
        Plane that distances are measured from.
    """
    f = check_focal(focal_mm)
    x = extension_at(focus_mm, f, datum)
    limits = sharp_limits(x, f, stop, blur_mm)
    return DepthResult(
        focus_mm,
        distance_of_image(limits.near_x, x, f, datum),
        distance_of_image(limits.far_x, x, f, datum),
        distance_at(hyperfocal_extension(f, stop, blur_mm), f, datum),
        limits.spread,
    )


def zone(
    focal_mm: float,
    near_mm: float,
    far_mm: float,
    blur_mm: float,
    datum: Datum,
    *,
    marked: tuple[float, ...] = FULL_STOPS,
) -> ZoneResult:
    """Return the setting that holds ``near_mm`` to ``far_mm``, with the marked stop to use.

    Parameters
    ----------
    focal_mm
        Focal length in mm, 1 to 5000.
    near_mm
        Nearest distance in mm.
    far_mm
        Farthest distance in mm; infinity allowed.
    blur_mm
        Acceptable blur diameter in mm, 0.0001 to 2.
    datum
        Plane that distances are measured from.
    marked
        F-numbers marked on the lens, widest first.
    """
    f = check_focal(focal_mm)
    if datum is Datum.FILM:
        plan = plan_film_zone(near_mm, far_mm, f, blur_mm, marked)
    else:
        near_x, far_x = (extension_at(distance, f, datum) for distance in (near_mm, far_mm))
        plan = plan_zone(near_x, far_x, f, blur_mm, marked)
    held = plan.verdict is not ZoneVerdict.NO_STOP
    return ZoneResult(
        focus_mm=distance_at(plan.focus_x, f, datum), spread_mm=plan.spread, stop_exact=plan.stop_exact,
        stop_marked=plan.stop_marked if held else None,
        achieved_near_mm=distance_of_image(plan.limits.near_x, plan.focus_x, f, datum) if held else None,
        achieved_far_mm=distance_of_image(plan.limits.far_x, plan.focus_x, f, datum) if held else None,
        balanced_stop=plan.balanced_stop,
    )  # fmt: skip


def ring(
    focal_mm: float,
    lead_mm: float,
    stop: float,
    blur_mm: float,
    focus_mm: float,
    datum: Datum,
    *,
    diameter_mm: float | None = None,
) -> RingResult:
    """Return where the ring stands for ``focus_mm``, degrees, and how wide the sharp window is there.

    Parameters
    ----------
    focal_mm
        Focal length in mm, 1 to 5000.
    lead_mm
        Advance of the helicoid in mm a turn, 0.05 to 500.
    stop
        F-number, 0.5 to 128.
    blur_mm
        Acceptable blur diameter in mm, 0.0001 to 2.
    focus_mm
        Distance in mm that is focused on.
    datum
        Plane that distances are measured from.
    diameter_mm
        Diameter of the ring in mm.
    """
    f = check_focal(focal_mm)
    per_mm = 360 / check_lead(lead_mm)
    x = extension_at(focus_mm, f, datum)
    window_deg = sharp_turning(x, f, stop, blur_mm).width * per_mm
    window_mm = None if diameter_mm is None else window_deg * ring_mm_per_degree(diameter_mm)
    return RingResult(x * per_mm, window_deg, window_mm)


@dataclass(frozen=True)
class ThrowOutlier:
    """A reading that does not belong: where it was read, its distance as given, and by how much it is off."""

    angle_deg: float
    distance_mm: float
    off_deg: float


@dataclass(frozen=True, kw_only=True)
class ThrowResult:
    """A ring from readings.

    The interval of the lead is 95 %, its upper end infinite with too few readings; ``model`` is ``helicoid``,
    ``curved`` or ``undecided``; ``h_mm`` and ``h_half_mm`` are None where the readings cannot show them; ``read_mm``
    are distances to read when undecided.
    """

    lead_mm: float
    lead_low_mm: float
    lead_high_mm: float
    infinity_deg: float
    infinity_half_deg: float
    rms_deg: float
    model: str
    h_mm: float | None
    h_half_mm: float | None
    outliers: tuple[ThrowOutlier, ...]
    read_mm: tuple[float, ...]


@dataclass(frozen=True)
class EngravingResult:
    """The blur circle a pair of marks implies, and by how many stops it is more lenient than the standard."""

    implied_blur_mm: float
    standard_blur_mm: float
    stops_from_standard: float


def throw(
    focal_mm: float,
    readings: Sequence[tuple[float, float]],
    datum: Datum,
    *,
    error_deg: float | None = None,
    distance_error: float | None = None,
) -> ThrowResult:
    """Return the ring that readings of (angle in degrees, distance in mm from ``datum``) show.

    Parameters
    ----------
    focal_mm
        Focal length, mm.
    readings
        2 to 60 pairs in any order.
    datum
        Plane the distances start from.
    error_deg
        Reading error, degrees; half a degree when None.
    distance_error
        Distance error as a share of it; the larger of 1 % and 5 mm when None.

    Raises
    ------
    WelotropeError
        When the readings cannot be those of a ring, as ``ring.survey`` and ``ring.calibration`` say.
    """
    start = MeasuredFrom.PRINCIPAL if datum is Datum.PRINCIPAL else MeasuredFrom.FILM
    survey = Survey(
        points=tuple(Point(angle, mm) for angle, mm in readings), kind=SurveyKind.MEASURED, start=start,
        error=error_deg, distance_error=distance_error,
    )  # fmt: skip
    found = calibrate(survey, check_focal(focal_mm), min(mm for _, mm in readings))
    outliers = (ThrowOutlier(r.angle_deg, readings[r.index][1], r.off_deg) for r in found.outliers)
    return ThrowResult(
        lead_mm=found.lead_mm, lead_low_mm=found.lead_low_mm, lead_high_mm=found.lead_high_mm,
        infinity_deg=found.infinity_deg, infinity_half_deg=found.infinity_half_deg, rms_deg=found.rms_deg,
        model=found.model.value, h_mm=found.h_mm, h_half_mm=found.h_half_mm, outliers=tuple(outliers),
        read_mm=found.to_read_mm,
    )  # fmt: skip


def engraving(
    focal_mm: float,
    stop: float,
    datum: Datum,
    *,
    far_mm: float | None = None,
    near_mm: float | None = None,
    index_mm: float | None = None,
    standard_mm: float | None = None,
) -> EngravingResult:
    """Return what a reading of the depth marks implies; two of far, near and index, mm from ``datum``.

    ``standard_mm`` is the blur to compare with, mm; when None the print standard of a 36 × 24 mm picture.

    Parameters
    ----------
    focal_mm
        Focal length in mm, 1 to 5000.
    stop
        F-number, 0.5 to 128.
    datum
        Plane that distances are measured from.
    far_mm
        Distance in mm at the far depth mark, or None.
    near_mm
        Distance in mm at the near depth mark, or None.
    index_mm
        Distance in mm at the index, or None.
    standard_mm
        Acceptable blur diameter of a standard in mm.
    """
    reading = MarkReading(stop=stop, far_mm=far_mm, near_mm=near_mm, index_mm=index_mm)
    implied = blur_of_reading(reading, check_focal(focal_mm), datum=datum)
    standard = SharpnessStandard().acceptable_blur(ImageFormat(36, 24)) if standard_mm is None else standard_mm
    return EngravingResult(implied, standard, stops_from_standard(implied, standard))
