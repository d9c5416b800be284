"""What movement does to the picture while the shutter is open: the subject's, and the hand's that holds the camera."""

from __future__ import annotations

import math
from dataclasses import dataclass

from welotrope.core.errors import OutOfRangeError
from welotrope.core.optics.depth import check_blur
from welotrope.core.optics.sharpness import ImageFormat

MOST_SPEED = 400.0
ROUNDED_OFFSET_MM = 6.0  # a third of half the width of a 36 mm picture
PRINT_SHARE = 1500


@dataclass(frozen=True)
class Mover:
    """What moves, and how fast, m/s; limbs and blades go about twice as fast as what carries them."""

    id: str
    name: str
    speed: float


# Speeds as people walk, run, ride and row: round figures of everyday experience.
MOVERS: tuple[Mover, ...] = (
    Mover("still", "nothing moves", 0.0), Mover("leaning", "sitting person", 0.03),
    Mover("talking", "talking or working by hand", 0.4), Mover("walking", "walking", 1.4),
    Mover("running", "running", 4.0), Mover("cycling", "cycling", 6.0), Mover("rowing", "racing rowing boat", 5.0),
)  # fmt: skip
MOVER_BY_ID = {mover.id: mover for mover in MOVERS}


def check_speed(speed: float) -> float:
    """Return a speed when it lies in 0 to 400 m/s, else raise OutOfRangeError.

    Parameters
    ----------
    speed
        Speed in m/s, 0 to 400.
    """
    if not 0 <= speed <= MOST_SPEED:
        raise OutOfRangeError(
            "speed", f"{speed:g} m/s", "nothing in front of a lens goes so fast", f"Write 0 to {MOST_SPEED:g} m/s"
        )
    return speed


def check_path(angle_deg: float) -> float:
    """Return the angle of a path to the lens's axis when it lies in 0 to 90°, else raise OutOfRangeError.

    Parameters
    ----------
    angle_deg
        Angle between path and axis of the lens, 0 to 90°.
    """
    if not 0 <= angle_deg <= 90:
        raise OutOfRangeError(
            "angle", f"{angle_deg:g}°", "a path runs at 0 to 90° to the axis",
            "Write 0 for straight at you, 90 for straight across",
        )  # fmt: skip
    return angle_deg


def image_speed(
    magnification: float, object_mm: float, speed: float, angle_deg: float, *, offset_mm: float = ROUNDED_OFFSET_MM
) -> float:
    """Return how fast the image moves, mm/s, on the side of the picture where it moves faster.

    Across the axis ``m·speed·sin``; along it what lies ``offset_mm`` from the middle runs out at
    ``offset·speed·cos/s``. On one side of the middle the two add, on the other they take from each other.

    Parameters
    ----------
    magnification
        At the subject.
    object_mm
        Its distance ``s`` from the principal plane, mm; may be infinite.
    speed, angle_deg
        m/s, and degrees between path and axis, 0 to 90.
    offset_mm
        From the middle of the picture, mm.

    Examples
    --------
    >>> round(image_speed(50 / 4950, 5000, 1.4, 90), 3)
    14.141
    """
    mm_per_s = check_speed(speed) * 1000
    angle = math.radians(check_path(angle_deg))
    growth = 0.0 if math.isinf(object_mm) else abs(offset_mm) * mm_per_s * math.cos(angle) / object_mm
    return magnification * mm_per_s * math.sin(angle) + growth


def slowest_shutter(image_mm_per_s: float, blur_mm: float) -> float:
    """Return the longest time, s, in which the image moves by no more than ``blur_mm``; infinite when it stands.

    Parameters
    ----------
    image_mm_per_s
        Speed of the image on the film in mm/s.
    blur_mm
        Acceptable blur diameter in mm, 0.0001 to 2.

    Examples
    --------
    >>> round(slowest_shutter(14.1414, 0.03), 6)
    0.002121
    """
    return math.inf if image_mm_per_s <= 0 else check_blur(blur_mm) / image_mm_per_s


FULL_DIAGONAL_MM = math.hypot(36, 24)


@dataclass(frozen=True)
class Holding:
    """How the camera is held: by how many stops slower than by hand one may go; None when it does not move."""

    id: str
    name: str
    stops: float | None


# What leaning and one leg bring is assumed, from what photographers tell; a stabiliser is taken at its modest end.
HOLDINGS: tuple[Holding, ...] = (
    Holding("hand", "hand-held", 0.0), Holding("leaning", "hand-held, leaning or seated", 1.0),
    Holding("stabilised", "hand-held, stabiliser on", 3.0), Holding("monopod", "on a monopod", 2.0),
    Holding("tripod", "on a tripod", None),
)  # fmt: skip
HOLDING_BY_ID = {holding.id: holding for holding in HOLDINGS}


def slowest_held(
    focal_mm: float, image: ImageFormat, blur_mm: float, holding: Holding, *, own_factor: float = 1.0
) -> float:
    """Return the slowest shutter time, s, that shake leaves within ``blur_mm``; infinite on a tripod.

    Parameters
    ----------
    focal_mm
        Focal length, mm.
    image
        Picture format: a smaller one is enlarged more.
    blur_mm
        What counts as sharp, mm.
    holding
        Camera support.
    own_factor
        How many times slower than the rule the photographer's own hand is good for.

    Examples
    --------
    >>> full = ImageFormat(36, 24)
    >>> round(1 / slowest_held(50, full, full.diagonal_mm / 1500, HOLDINGS[0]))
    50
    """
    if holding.stops is None:
        return math.inf
    equivalent = focal_mm * FULL_DIAGONAL_MM / image.diagonal_mm
    stricter = blur_mm / (image.diagonal_mm / PRINT_SHARE)
    return float(own_factor * stricter * 2**holding.stops / equivalent)
