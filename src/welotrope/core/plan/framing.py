"""What a picture holds at a distance, how far the background dissolves, and which focal length to begin with."""

from __future__ import annotations

import math
from dataclasses import dataclass

from welotrope.core.errors import OutOfRangeError
from welotrope.core.optics.sharpness import ImageFormat
from welotrope.core.optics.thin_lens import Datum, extension_at, magnification
from welotrope.core.plan.zone import ZonePlan, plan_film_zone

STANDING_MM = 1750.0
MOST_TILT_DEG = 80.0


def background_blur(focal_mm: float, stop: float, object_mm: float, *, behind_mm: float = math.inf) -> float:
    """Return the diameter of the blur disc on the film, mm, of a point behind the subject.

    ``(f/N)·m·Δ/(s + Δ)`` with ``m = f/(s − f)``: similar triangles behind a thin lens whose pupil is ``f/N`` wide.

    Parameters
    ----------
    focal_mm, stop
        Focal length, mm, and f-number.
    object_mm
        Distance focused, mm from the front principal plane, more than the focal length; may be infinite.
    behind_mm
        How far the point lies behind the subject, mm; infinite for the far background.

    Examples
    --------
    >>> round(background_blur(100, 4, 1100), 2)
    2.5
    """
    if math.isinf(object_mm):
        return 0.0
    m = focal_mm / (object_mm - focal_mm)
    return focal_mm / stop * m * (1.0 if math.isinf(behind_mm) else behind_mm / (object_mm + behind_mm))


@dataclass(frozen=True)
class FieldOfView:
    """What the picture holds at a distance: width and height, mm, and the magnification there.

    Both are infinite at infinity.
    """

    width_mm: float
    height_mm: float
    magnification: float


def field_of_view(
    image: ImageFormat, distance_mm: float, f: float, datum: Datum, *, h: float = 0.0, beyond: bool = False
) -> FieldOfView:
    """Return what the picture holds at ``distance_mm`` when focused there; mm from ``datum``, errors as ``thin_lens``.

    Parameters
    ----------
    image
        The picture format, sides in mm.
    distance_mm
        Distance in mm; infinity allowed.
    f
        Focal length in mm, 1 to 5000.
    datum
        Plane that distances are measured from.
    h
        Separation of the principal planes in mm; 0 for a thin lens, negative where they cross.
    beyond
        Whether the solution above life size is wanted.

    Examples
    --------
    >>> found = field_of_view(ImageFormat(36, 24), 2000, 35, Datum.PRINCIPAL)
    >>> round(found.width_mm, 1), round(found.height_mm, 1)
    (2021.1, 1347.4)
    """
    m = float(magnification(extension_at(distance_mm, f, datum, h=h, beyond=beyond), f))
    if m <= 0:
        return FieldOfView(math.inf, math.inf, 0.0)
    return FieldOfView(image.width_mm / m, image.height_mm / m, m)


@dataclass(frozen=True)
class HeightSeen:
    """Lowest and highest thing in the picture at a distance, mm above the ground; the ground cuts it off at 0."""

    low_mm: float
    high_mm: float


def half_angle(side_mm: float, v_mm: float) -> float:
    """Half the angle of view, radians, of a picture side, mm, with the lens ``v`` mm before it.

    Parameters
    ----------
    side_mm
        Length of the picture's side in mm.
    v_mm
        Image distance in mm from the rear principal plane.

    Examples
    --------
    >>> round(math.degrees(2 * half_angle(24, 24)), 2)
    53.13
    """
    return math.atan(side_mm / (2 * v_mm))


def height_seen(camera_mm: float, distance_mm: float, half_angle_rad: float, *, tilt_deg: float = 0.0) -> HeightSeen:
    """Return what a camera at a height sees of a wall at a distance, mm.

    Parameters
    ----------
    camera_mm, distance_mm
        Height over the ground, and distance from the lens along the ground.
    half_angle_rad
        Half the angle of view upright, radians.
    tilt_deg
        Upwards, −80 to 80°.

    Raises
    ------
    OutOfRangeError
        When the tilt is out of range.

    Examples
    --------
    >>> seen = height_seen(1000, 2000, math.atan(0.5))
    >>> round(seen.low_mm), round(seen.high_mm)
    (0, 2000)
    """
    if not -MOST_TILT_DEG <= tilt_deg <= MOST_TILT_DEG:
        raise OutOfRangeError("tilt", f"{tilt_deg:g}°", "out of range", "Write −80° to 80°, plus is upwards")
    tilt = math.radians(tilt_deg)
    low, high = (camera_mm + distance_mm * _tangent(tilt + side * half_angle_rad) for side in (-1, 1))
    return HeightSeen(max(low, 0.0), high)


def _tangent(angle: float) -> float:
    """Tangent of a ray's rise; a ray straight up or beyond sees without end."""
    return math.copysign(math.inf, angle) if abs(angle) >= math.pi / 2 else math.tan(angle)


def standing_fits_from(
    camera_mm: float, half_angle_rad: float, *, tilt_deg: float = 0.0, figure_mm: float = STANDING_MM
) -> float:
    """Return the distance from the lens, mm, from which a standing figure fits head to foot; infinite when none does.

    The camera stands ``camera_mm`` over the ground, its picture opens ``half_angle_rad`` up and down, tilted upwards
    by ``tilt_deg`` degrees; the figure is ``figure_mm`` tall.

    Parameters
    ----------
    camera_mm
        Height of the camera above the ground in mm.
    half_angle_rad
        Half the angle of view in radians.
    tilt_deg
        Tilt of the camera in degrees, positive downwards.
    figure_mm
        Height of the figure in mm.

    Examples
    --------
    >>> round(standing_fits_from(875, math.atan(0.5)), 6)  # at half the figure's height
    1750.0
    """
    tilt = math.radians(tilt_deg)
    feet, head = _tangent(tilt - half_angle_rad), _tangent(tilt + half_angle_rad)
    below = 0.0 if camera_mm <= 0 else math.inf if feet >= 0 else camera_mm / -feet
    if figure_mm > camera_mm:
        return max(below, math.inf if head <= 0 else (figure_mm - camera_mm) / head)
    # It stays under the horizon; looking down, it fits no farther than where the upper ray comes down to its head.
    farthest = math.inf if head >= 0 else (camera_mm - figure_mm) / -head
    return below if below <= farthest else math.inf


@dataclass(frozen=True, kw_only=True)
class BeginWith:
    """A focal length, mm, to begin with; the stop its zone needs, exactly; and the magnification there."""

    focal_mm: float
    stop_exact: float
    magnification: float


def focal_to_begin(image: ImageFormat, distance_mm: float, width_mm: float) -> float:
    """Return the focal length, mm, whose picture is ``width_mm`` wide at a distance, mm from the film plane.

    ``D = f·(1 + m)²/m`` with ``m`` the width of the picture over that of what it shows, the principal planes together.

    Parameters
    ----------
    image
        The picture format, sides in mm.
    distance_mm
        Distance in mm; infinity allowed.
    width_mm
        Width of the picture in mm.

    Raises
    ------
    OutOfRangeError
        When it is larger than life.

    Examples
    --------
    >>> round(focal_to_begin(ImageFormat(36, 24), 2000, 1394.6), 1)
    49.1
    """
    m = image.width_mm / width_mm
    if not 0 < m <= 1:
        raise OutOfRangeError(
            "width", f"{width_mm:g} mm", "that is larger than life, which another lens is for",
            f"Write {image.width_mm:g} mm or more",
        )  # fmt: skip
    return distance_mm * m / (1 + m) ** 2


def begin_with(
    image: ImageFormat, near_mm: float, far_mm: float, distance_mm: float, width_mm: float, blur_mm: float
) -> BeginWith:
    """Return what to begin with for a zone, mm from the film plane, framed so wide at a distance.

    ``blur_mm`` is what counts as sharp. Errors as :func:`focal_to_begin` and ``plan_film_zone``.

    Parameters
    ----------
    image
        The picture format, sides in mm.
    near_mm
        Nearest distance in mm.
    far_mm
        Farthest distance in mm; infinity allowed.
    distance_mm
        Distance in mm; infinity allowed.
    width_mm
        Width of the picture in mm.
    blur_mm
        Acceptable blur diameter in mm, 0.0001 to 2.
    """
    focal = focal_to_begin(image, distance_mm, width_mm)
    plan: ZonePlan = plan_film_zone(near_mm, far_mm, focal, blur_mm, (1.0, 128.0))
    return BeginWith(focal_mm=focal, stop_exact=plan.stop_exact, magnification=image.width_mm / width_mm)
