"""The stand-alone calculations of planning, on plain values: zones, field, trap, close-up, stack, exposure, stars.

Distances are in mm from the datum named; every result repeats the unit in its name; infinity is ``math.inf``.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from welotrope.core.exposure.light import shutter_for
from welotrope.core.exposure.motion import ROUNDED_OFFSET_MM, image_speed, slowest_shutter
from welotrope.core.exposure.shutter_dial import marked_shutter
from welotrope.core.optics.sharpness import ImageFormat
from welotrope.core.optics.thin_lens import (
    Datum,
    check_focal,
    extension_at,
    magnification,
    object_distance_at_extension,
)
from welotrope.core.plan.closeup import close_range
from welotrope.core.plan.framing import FieldOfView, field_of_view
from welotrope.core.plan.night_plan import trail_time
from welotrope.core.plan.sitter import recompose_shift
from welotrope.core.plan.trap import Trap
from welotrope.core.plan.zones import LensAt, frame_stack, window_at, windows_inwards


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
