"""A kit in a few answers: the kind of camera brings a body with typical values, the lens what is usual for it.

Typical values of the kinds stand in ``camera_kind``. A lens comes usually as near as ten focal lengths and stops down
to f/16.
"""

from __future__ import annotations

import math

from welotrope.core.kit.aids.registry import kind_of
from welotrope.core.kit.body import Body
from welotrope.core.kit.camera_kind import CameraKind, ScaleShown, ScreenCentre, SetBy, usual_aids
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.traits import BodyTraits, LensFit, ScaleStandard
from welotrope.core.kit.zoom import Zoom
from welotrope.core.optics.sharpness import ImageFormat
from welotrope.core.optics.thin_lens import shortest_film_distance
from welotrope.core.units.distance import Unit
from welotrope.core.units.exposure import parse_stops

_SMALLEST_STOP = 16.0
_NEAREST_FOCALS = 10.0  # closest focus, focal lengths
USUAL_MEGAPIXELS = 12.0  # of a sensor of which nothing is said: any camera of the last fifteen years has them
_FRONT_FOCALS = 4.0  # front of a compact's lens before the sensor, focal lengths


def first_body(kind: CameraKind, name: str, image: ImageFormat, *, prisms: ScreenCentre = ScreenCentre.NONE) -> Body:
    """Return a body of a kind: its aids are marked typical, those that film cannot show left out.

    Parameters
    ----------
    kind
        Kind of camera.
    name
        Name of the body.
    image
        The picture format, sides in mm.
    prisms
        What sits in the middle of the screen.
    """
    aids = tuple(aid for aid in usual_aids(kind, prisms=prisms) if not (image.width_px is None and kind_of(aid).live))
    bar = ScaleStandard.FILM if kind.scale is ScaleShown.BAR else ScaleStandard.NONE
    typical = tuple(kind_of(aid).tag for aid in aids)
    traits = BodyTraits(kind=kind.id, finder=kind.finders[0], distance_scale=bar, typical=typical)
    return Body(name, image, aids, traits=traits)


def first_image(kind: CameraKind, size: tuple[float, float], megapixels: float | None, *, film: bool) -> ImageFormat:
    """Return the picture of a camera of a kind: its size, mm, and its pixels, a usual number where none is said.

    A kind that may record on either is taken for a sensor when megapixels are said, or when not ``film``.

    Parameters
    ----------
    kind
        Kind of camera.
    size
        Width and height of the picture in mm.
    megapixels
        Millions of pixels; None where it is not known.
    film
        Whether it records on film.
    """
    if not kind.on_sensor and film and megapixels is None:
        return ImageFormat(*size)
    return ImageFormat(*size, pixels_across(USUAL_MEGAPIXELS if megapixels is None else megapixels, *size))


def first_lens(
    focals_mm: tuple[float, ...],
    stops: tuple[float, ...],
    closest_mm: float | None,
    throw_deg: float | None,
    *,
    kind: CameraKind,
    name: str = "",
    units: tuple[Unit, ...] = (Unit.METRIC, Unit.FEET),
) -> Lens:
    """Return a lens, or a zoom of both ends, with its usual nearest distance when none is known, mm.

    Parameters
    ----------
    focals_mm, stops
        Marked focal lengths, mm, and stops.
    closest_mm
        Nearest distance, mm: from the film plane, and from the front of the lens where the camera shows it on a screen.
    throw_deg
        Of the ring, degrees, judged by eye; None when not known.
    kind
        Of the camera it is for: it decides how the distance is set and shown.
    name, units
        What it is called, and the systems engraved on it.

    Raises
    ------
    WelotropeError
        As :class:`Lens`.
    """
    long = focals_mm[-1]
    ring = kind.scale is ScaleShown.RING
    closest = closest_mm or _NEAREST_FOCALS * long
    if not ring and kind.scale is ScaleShown.BAR and closest_mm is not None:
        closest = closest_from_front(closest_mm, long)
    return Lens(
        name=name or f"My {'–'.join(f'{focal:g}' for focal in focals_mm)} mm", focal_mm=long, stops=stops,
        closest_mm=closest, zoom=Zoom(focals_mm=focals_mm if len(focals_mm) > 1 else ()),
        throw_deg=throw_deg, throw_by_eye=throw_deg is not None, engraved_units=units if ring else (),
        fit=LensFit(endless=kind.set_by is SetBy.WIRE),
    )  # fmt: skip


def closest_from_front(front_mm: float, focal_mm: float) -> float:
    """Return the nearest distance from the sensor, mm, of a compact whose maker gives it from the front of the lens.

    The front is taken to stand four focal lengths before the sensor, and the lens to reach what is at least possible.

    Parameters
    ----------
    front_mm
        Nearest distance in mm from the front of the lens.
    focal_mm
        Focal length in mm, 1 to 5000.

    Examples
    --------
    >>> closest_from_front(10, 6.1)
    34.4
    """
    return max(round(front_mm + _FRONT_FOCALS * focal_mm, 1), math.ceil(shortest_film_distance(focal_mm) * 10) / 10)


def first_stops(text: str) -> tuple[float, ...]:
    """Read marked stops; the widest alone is filled up with the full stops to f/16.

    Parameters
    ----------
    text
        What was typed.

    Examples
    --------
    >>> first_stops("2.8")
    (2.8, 4.0, 5.6, 8.0, 11.0, 16.0)
    """
    found = parse_stops(text)
    return found if len(found) > 1 or found[0] >= _SMALLEST_STOP else parse_stops(f"{found[0]:g}-{_SMALLEST_STOP:g}")


def pixels_across(megapixels: float, width_mm: float, height_mm: float) -> int:
    """Return the pixels along the long side of a sensor of so many megapixels and this size, mm.

    Parameters
    ----------
    megapixels
        Millions of pixels; None where it is not known.
    width_mm
        Width of the picture in mm.
    height_mm
        Height of the picture in mm.

    Examples
    --------
    >>> pixels_across(24, 36, 24)
    6000
    """
    long, short = max(width_mm, height_mm), min(width_mm, height_mm)
    return round(math.sqrt(megapixels * 1e6 * long / short))
