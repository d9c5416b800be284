"""The first kit by recognition: what one looks through brings a body with typical values, to be put right later.

Typical values are those such finders usually have: a reflex magnifies 0.9 times with a 50 mm lens, a bright screen
shows no thinner depth than f/2.8, a split image has prisms of 6.5° and a microprism of 5°, a rangefinder a base of
some 45 mm seen at 0.7 times, a display 1280 pixels across and a magnifier of 6 and 12 times. A lens comes usually as
near as ten focal lengths and stops down to f/16.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

from welotrope.core.kit.aids.kind import AidRecord
from welotrope.core.kit.aids.magnified import MagnifiedView
from welotrope.core.kit.aids.matte import MatteScreen
from welotrope.core.kit.aids.microprism import Microprism
from welotrope.core.kit.aids.peaking import Peaking, PeakingLevel
from welotrope.core.kit.aids.rangefinder import RangefinderPatch
from welotrope.core.kit.aids.registry import kind_of
from welotrope.core.kit.aids.split_image import SplitImage
from welotrope.core.kit.body import Body
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.traits import BodyTraits, FinderKind, ScaleStandard
from welotrope.core.kit.zoom import Zoom
from welotrope.core.optics.sharpness import ImageFormat
from welotrope.core.units.stops import parse_stops

_EYEPIECE, _WAIST_MAGNIFIER = 0.9, 1.0
_SMALLEST_STOP = 16.0
_NEAREST_FOCALS = 10.0  # closest focus, focal lengths
_LEVELS = (PeakingLevel("low", 0.2), PeakingLevel("mid", 0.1), PeakingLevel("high", 0.05))


def _reflex(*prisms: Callable[[float], AidRecord], seen: float = _EYEPIECE) -> tuple[AidRecord, ...]:
    return (MatteScreen(seen), *(made(seen) for made in prisms))


def _display() -> tuple[AidRecord, ...]:
    return (MagnifiedView(1280, (6, 12)), Peaking(1280, _LEVELS))


@dataclass(frozen=True, kw_only=True)
class LooksThrough:
    """A way to look, with what it brings.

    Parameters
    ----------
    id, label, tells
        Its key, what it is called, and how one recognises it.
    finder
        Kind of finder.
    aids
        Aids with typical values; those for a picture on film when ``on_film``.
    film
        What one usually records on with it.
    scale
        What the distance scale on its screen goes by.
    """

    id: str
    label: str
    tells: str
    finder: FinderKind
    aids: tuple[AidRecord, ...] = ()
    film: bool = False
    scale: ScaleStandard = ScaleStandard.NONE


FINDERS: tuple[LooksThrough, ...] = (
    LooksThrough(
        id="plain", label="a mirror and a plain screen",
        tells="one looks through the lens; the picture is grey and even",
        finder=FinderKind.SLR, aids=_reflex(), film=True,
    ),
    LooksThrough(
        id="split", label="a mirror and a split image",
        tells="a circle in the middle is cut in two halves that must meet",
        finder=FinderKind.SLR, aids=_reflex(SplitImage), film=True,
    ),
    LooksThrough(
        id="microprism", label="a mirror and microprisms",
        tells="a spot or a collar in the middle shimmers until it is sharp",
        finder=FinderKind.SLR, aids=_reflex(Microprism), film=True,
    ),
    LooksThrough(
        id="waist", label="a screen looked down on", tells="one holds it at the waist and looks down; left is right",
        finder=FinderKind.SLR, aids=_reflex(seen=_WAIST_MAGNIFIER), film=True,
    ),
    LooksThrough(
        id="rangefinder", label="a rangefinder", tells="a second picture in a patch slides over the first",
        finder=FinderKind.RANGEFINDER, aids=(RangefinderPatch(45.0, 0.7),), film=True,
    ),
    LooksThrough(
        id="display", label="an electronic finder or rear screen", tells="a small screen shows what the sensor sees",
        finder=FinderKind.ELECTRONIC, aids=_display(),
    ),
    LooksThrough(
        id="scale", label="nothing: only the lens’s scale", tells="a folding, box or zone camera; one guesses and sets",
        finder=FinderKind.ZONE, film=True,
    ),
    LooksThrough(
        id="compact", label="a screen with a distance scale", tells="a compact whose screen shows a bar of distances",
        finder=FinderKind.REAR_SCREEN, aids=_display(), scale=ScaleStandard.FILM,
    ),
)  # fmt: skip
BY_ID = {one.id: one for one in FINDERS}


def first_body(looks: LooksThrough, name: str, image: ImageFormat) -> Body:
    """Return a body one looks through like this: its aids are marked typical, those that film cannot show left out."""
    aids = tuple(aid for aid in looks.aids if not (image.width_px is None and kind_of(aid).live))
    typical = tuple(kind_of(aid).tag for aid in aids)
    traits = BodyTraits(finder=looks.finder, distance_scale=looks.scale, typical=typical)
    return Body(name, image, aids, traits=traits)


def first_lens(
    focals_mm: tuple[float, ...], stops: tuple[float, ...], closest_mm: float | None, throw_deg: float | None
) -> Lens:
    """Return a lens, or a zoom of both ends, with its usual nearest distance when none is known (mm, film plane).

    A throw, degrees, counts as judged by eye.
    """
    long = focals_mm[-1]
    return Lens(
        name=f"My {'–'.join(f'{focal:g}' for focal in focals_mm)} mm", focal_mm=long, stops=stops,
        closest_mm=closest_mm or _NEAREST_FOCALS * long, zoom=Zoom(focals_mm=focals_mm if len(focals_mm) > 1 else ()),
        throw_deg=throw_deg, throw_by_eye=throw_deg is not None,
    )  # fmt: skip


def first_stops(text: str) -> tuple[float, ...]:
    """Read marked stops; the widest alone is filled up with the full stops to f/16.

    Examples
    --------
    >>> first_stops("2.8")
    (2.8, 4.0, 5.6, 8.0, 11.0, 16.0)
    """
    found = parse_stops(text)
    return found if len(found) > 1 or found[0] >= _SMALLEST_STOP else parse_stops(f"{found[0]:g}-{_SMALLEST_STOP:g}")


def pixels_across(megapixels: float, width_mm: float, height_mm: float) -> int:
    """Return the pixels along the long side of a sensor of so many megapixels and this size, mm.

    Examples
    --------
    >>> pixels_across(24, 36, 24)
    6000
    """
    long, short = max(width_mm, height_mm), min(width_mm, height_mm)
    return round(math.sqrt(megapixels * 1e6 * long / short))
