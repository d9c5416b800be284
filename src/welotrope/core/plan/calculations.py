"""The stand-alone calculations that the command line and the JSON API share, on plain values.

Distances are in mm from the datum named; every result repeats the unit in its name; infinity is ``math.inf``.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from welotrope.core.exposure.light import shutter_for
from welotrope.core.exposure.motion import ROUNDED_OFFSET_MM, image_speed, slowest_shutter
from welotrope.core.exposure.shutter_dial import marked_shutter
from welotrope.core.optics.depth import hyperfocal_extension, sharp_limits
from welotrope.core.optics.sharpness import ImageFormat, SharpnessStandard
from welotrope.core.optics.thin_lens import (
    Datum,
    check_focal,
    distance_at,
    distance_of_image,
    extension_at,
    magnification,
    object_distance_at_extension,
)
from welotrope.core.optics.turning import sharp_turning
from welotrope.core.plan.closeup import close_range
from welotrope.core.plan.framing import FieldOfView, field_of_view
from welotrope.core.plan.night_plan import trail_time
from welotrope.core.plan.sitter import recompose_shift
from welotrope.core.plan.trap import Trap
from welotrope.core.plan.zone import ZoneVerdict, plan_film_zone, plan_zone
from welotrope.core.plan.zones import LensAt, frame_stack, window_at, windows_inwards
from welotrope.core.ring.calibration import calibrate
from welotrope.core.ring.depth_marks import MarkReading, blur_of_reading, stops_from_standard
from welotrope.core.ring.helicoid import check_lead, ring_mm_per_degree
from welotrope.core.ring.survey import MeasuredFrom, Point, Survey, SurveyKind
from welotrope.core.units.exposure import FULL_STOPS


@dataclass(frozen=True)
class ZoneWindow:
    """One of several zones: the plane to set and its limits."""

    focus_mm: float
    near_mm: float
    far_mm: float


@dataclass(frozen=True)
class ZonesResult:
    """Zones that leave no gap, farthest first."""

    zones: tuple[ZoneWindow, ...]


@dataclass(frozen=True, kw_only=True)
class TrapResult:
    """A trap: its zone, the time and the frames in it, and where the subject is when one decides; None behind one."""

    near_mm: float
    far_mm: float
    time_in_zone_s: float
    frames: float
    press_at_mm: float | None
    burst_from_mm: float | None


@dataclass(frozen=True)
class RecomposeResult:
    """How far behind the subject the plane falls."""

    shift_mm: float


@dataclass(frozen=True)
class CloseupResult:
    """Working distances and magnifications of a close-up."""

    working_near_mm: float
    working_far_mm: float
    magnification_max: float
    magnification_min: float


@dataclass(frozen=True)
class StackResult:
    """A stack of frames, nearest first."""

    frames: int
    focus_mm: tuple[float, ...]
    step_extension_mm: float


@dataclass(frozen=True)
class ExposureResult:
    """A shutter time, and the engraved one nearest to it, s, None beyond the dial."""

    shutter_s: float
    shutter_marked: float | None


@dataclass(frozen=True)
class MotionResult:
    """The slowest shutter, s, infinite when the image stands, and how fast the image moves."""

    shutter_s: float
    image_mm_per_s: float


@dataclass(frozen=True)
class TrailResult:
    """The longest exposure, s."""

    shutter_s: float


def zones(
    focal_mm: float, stop: float, blur_mm: float, count: int, datum: Datum, *, far_mm: float = math.inf,
    overlap: float = 0.0,
) -> ZonesResult:  # fmt: skip
    """Return ``count`` zones side by side from ``far_mm`` inwards, mm from ``datum``; ``overlap`` as a share.

    Parameters
    ----------
    focal_mm
        Focal length in mm, 1 to 5000.
    stop
        F-number, 0.5 to 128.
    blur_mm
        Acceptable blur diameter in mm, 0.0001 to 2.
    count
        How many.
    datum
        Plane that distances are measured from.
    far_mm
        Farthest distance in mm; infinity allowed.
    overlap
        Share of a window by which neighbours overlap, 0 to 0.9.
    """
    lens = LensAt(f=check_focal(focal_mm), N=stop, c=blur_mm, datum=datum)
    found = windows_inwards(lens, far_mm, count, overlap=overlap)
    return ZonesResult(tuple(ZoneWindow(one.focus_mm, one.near_mm, one.far_mm) for one in found))


def view(focal_mm: float, width_mm: float, height_mm: float, distance_mm: float, datum: Datum) -> FieldOfView:
    """Return what a picture of ``width_mm`` × ``height_mm`` holds at a distance, mm from ``datum``.

    Parameters
    ----------
    focal_mm
        Focal length in mm, 1 to 5000.
    width_mm
        Width of the picture in mm.
    height_mm
        Height of the picture in mm.
    distance_mm
        Distance in mm; infinity allowed.
    datum
        Plane that distances are measured from.
    """
    return field_of_view(ImageFormat(width_mm, height_mm), distance_mm, check_focal(focal_mm), datum)


def trap(
    focal_mm: float, stop: float, blur_mm: float, distance_mm: float, speed: float, datum: Datum, *, rate: float = 8.0,
    reaction_s: float = 0.25, lag_s: float = 0.06, angle_deg: float = 0.0, receding: bool = False,
) -> TrapResult:  # fmt: skip
    """Return a trap set at a distance, mm from ``datum``, for a speed in m/s, a rate per second and times in s.

    Parameters
    ----------
    focal_mm
        Focal length in mm, 1 to 5000.
    stop
        F-number, 0.5 to 128.
    blur_mm
        Acceptable blur diameter in mm, 0.0001 to 2.
    distance_mm
        Distance in mm; infinity allowed.
    speed
        Speed in m/s, 0 to 400.
    datum
        Plane that distances are measured from.
    rate
        Pictures a second in a burst.
    reaction_s
        Time in s from seeing to pressing.
    lag_s
        Time in s from pressing to the picture.
    angle_deg
        Angle in degrees: of a path to the axis of the lens, or that the camera is turned by.
    receding
        Whether the subject goes away.
    """
    lens = LensAt(f=check_focal(focal_mm), N=stop, c=blur_mm, datum=datum)
    zone = window_at(lens, float(extension_at(distance_mm, focal_mm, datum)))
    made = Trap(
        focus_mm=distance_mm, near_mm=zone.near_mm, far_mm=zone.far_mm, speed=speed, angle_deg=angle_deg,
        receding=receding, rate=rate, reaction_s=reaction_s, lag_s=lag_s,
    )  # fmt: skip
    return TrapResult(
        near_mm=zone.near_mm, far_mm=zone.far_mm, time_in_zone_s=made.time_in_zone_s, frames=made.frames,
        press_at_mm=_in_front(made.press_at_mm), burst_from_mm=_in_front(made.burst_from_mm),
    )  # fmt: skip


def _in_front(distance_mm: float) -> float | None:
    """Return a distance, or None behind the camera: nobody sees it there."""
    return distance_mm if distance_mm > 0 else None


def recompose(distance_mm: float, angle_deg: float, *, datum: Datum = Datum.PRINCIPAL) -> RecomposeResult:
    """Return how far behind the subject the plane falls after turning by ``angle_deg``, mm from the entrance pupil.

    Parameters
    ----------
    distance_mm
        Distance in mm; infinity allowed.
    angle_deg
        Angle in degrees: of a path to the axis of the lens, or that the camera is turned by.
    datum
        Plane that distances are measured from.
    """
    return RecomposeResult(recompose_shift(distance_mm, angle_deg))


def closeup(
    focal_mm: float, closest_mm: float, datum: Datum, *, power: Sequence[float] = (), tube_mm: float = 0.0,
    gap_mm: float = 0.0,
) -> CloseupResult:  # fmt: skip
    """Return the working range of a lens of closest focus ``closest_mm`` (from ``datum``) with dioptres or a tube.

    Parameters
    ----------
    focal_mm
        Focal length in mm, 1 to 5000.
    closest_mm
        Closest distance of the lens in mm.
    datum
        Plane that distances are measured from.
    power
        Powers of close-up lenses in dioptres.
    tube_mm
        Extension tube in mm; 0 for none.
    gap_mm
        Distance in mm from the principal plane to the close-up lens; negative where that plane lies before it.
    """
    f = check_focal(focal_mm)
    found = close_range(f, float(extension_at(closest_mm, f, datum)), power=sum(power), tube_mm=tube_mm, gap_mm=gap_mm)
    return CloseupResult(found.near.working_mm, found.far.working_mm, found.near.magnification, found.far.magnification)


def stack(
    focal_mm: float, stop: float, blur_mm: float, near_mm: float, far_mm: float, datum: Datum, *, overlap: float = 0.2
) -> StackResult:
    """Return the frames of a stack from ``near_mm`` to ``far_mm``, mm from ``datum``; ``overlap`` as a share.

    Parameters
    ----------
    focal_mm
        Focal length in mm, 1 to 5000.
    stop
        F-number, 0.5 to 128.
    blur_mm
        Acceptable blur diameter in mm, 0.0001 to 2.
    near_mm
        Nearest distance in mm.
    far_mm
        Farthest distance in mm; infinity allowed.
    datum
        Plane that distances are measured from.
    overlap
        Share of a window by which neighbours overlap, 0 to 0.9.
    """
    found = frame_stack(
        LensAt(f=check_focal(focal_mm), N=stop, c=blur_mm, datum=datum), near_mm, far_mm, overlap=overlap
    )
    return StackResult(len(found.frames), tuple(one.focus_mm for one in found.frames), found.step_mm)


def exposure(
    ev: float, stop: float, iso: float, *, datum: Datum = Datum.FILM, filter_stops: float = 0.0, m: float = 0.0
) -> ExposureResult:
    """Return the shutter time, s, for an EV at ISO 100, a filter in stops and a magnification.

    Parameters
    ----------
    ev
        Exposure value at ISO 100, −10 to 20.
    stop
        F-number, 0.5 to 128.
    iso
        Sensitivity, ISO 1 to 1 000 000.
    datum
        Plane that distances are measured from.
    filter_stops
        Light that a filter takes, in stops.
    m
        Magnification, a ratio; 0 at infinity, 1 at life size.
    """
    seconds = shutter_for(ev, stop, iso, filter_stops=filter_stops, m=m)
    return ExposureResult(seconds, marked_shutter(seconds))


def motion(
    focal_mm: float, distance_mm: float, speed: float, angle_deg: float, blur_mm: float, datum: Datum,
    *, offset_mm: float = ROUNDED_OFFSET_MM,
) -> MotionResult:  # fmt: skip
    """Return the slowest shutter for a subject at a distance, mm from ``datum``, at m/s and degrees to the axis.

    Parameters
    ----------
    focal_mm
        Focal length in mm, 1 to 5000.
    distance_mm
        Distance in mm; infinity allowed.
    speed
        Speed in m/s, 0 to 400.
    angle_deg
        Angle in degrees: of a path to the axis of the lens, or that the camera is turned by.
    blur_mm
        Acceptable blur diameter in mm, 0.0001 to 2.
    datum
        Plane that distances are measured from.
    offset_mm
        How far the subject lies off the axis in mm of the picture.
    """
    x = float(extension_at(distance_mm, check_focal(focal_mm), datum))
    m = float(magnification(x, focal_mm))
    moves = image_speed(m, float(object_distance_at_extension(x, focal_mm)), speed, angle_deg, offset_mm=offset_mm)
    return MotionResult(slowest_shutter(moves, blur_mm), moves)


def trail(
    focal_mm: float, pitch_mm: float, pixels: float, *, datum: Datum = Datum.FILM, declination_deg: float = 0.0
) -> TrailResult:
    """Return the longest exposure, s, before a star trails ``pixels`` of ``pitch_mm``, at a declination in degrees.

    Parameters
    ----------
    focal_mm
        Focal length in mm, 1 to 5000.
    pitch_mm
        Distance between pixels on the sensor in mm.
    pixels
        Length of the trail allowed, in pixels.
    datum
        Plane that distances are measured from.
    declination_deg
        Declination of the star in degrees.
    """
    return TrailResult(trail_time(focal_mm, pixels * pitch_mm, declination_deg=declination_deg))


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
