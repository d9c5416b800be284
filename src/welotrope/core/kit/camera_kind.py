"""The kinds of camera: what each can be asked, which aids it can have, how one looks through it and how it is set.

Nothing else asks which kind a camera is; whoever wants to know asks what its kind declares. Typical values are those
such finders usually have: a reflex magnifies 0.9 times with a 50 mm lens, a bright screen shows no thinner depth than
f/2.8, a split image has prisms of 6.5° and a microprism of 5°, a rangefinder a base of some 45 mm seen at 0.7 times, a
display is 1280 pixels across and magnifies 6 and 12 times. A ground glass is looked at through a loupe of 4 times,
which is 0.8 times by the measure of finders (:func:`finder_magnification_of_loupe`).
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from welotrope.core.kit.aids.kind import AidRecord
from welotrope.core.kit.aids.magnified import MagnifiedView
from welotrope.core.kit.aids.matte import MatteScreen
from welotrope.core.kit.aids.microprism import Microprism
from welotrope.core.kit.aids.peaking import Peaking, PeakingLevel
from welotrope.core.kit.aids.rangefinder import RangefinderPatch
from welotrope.core.kit.aids.split_image import SplitImage


class FinderKind(StrEnum):
    """Kinds of viewfinder."""

    SLR = "reflex screen"
    RANGEFINDER = "rangefinder"
    ELECTRONIC = "electronic finder"
    REAR_SCREEN = "rear screen only"
    ZONE = "zone focus only"
    GROUND_GLASS = "ground glass"
    UNKNOWN = "not known"

    @property
    def label(self) -> str:
        """What it is called on the page; its value is what files know it by."""
        return "SLR screen" if self is FinderKind.SLR else self.value


# Finders that show what a sensor sees.
OF_A_SENSOR = (FinderKind.ELECTRONIC, FinderKind.REAR_SCREEN)
# Finders with no screen of glass to judge focus on.
WITHOUT_GLASS = (*OF_A_SENSOR, FinderKind.ZONE, FinderKind.RANGEFINDER)


class CameraKindId(StrEnum):
    """The kinds, as they are stored."""

    SLR = "slr"
    SLR_LIVE = "slr-live"
    WAIST = "waist"
    TWIN = "twin"
    RANGEFINDER = "rangefinder"
    SCALE = "scale"
    VIEW = "view"
    MIRRORLESS = "mirrorless"
    FIXED_RING = "fixed-ring"
    FIXED_WIRE = "fixed-wire"
    COMPACT = "compact"
    UNKNOWN = ""


class Viewing(StrEnum):
    """What one judges focus through."""

    TAKING_LENS = "a screen behind the taking lens"
    OWN_LENS = "a screen behind a lens of its own"
    OWN_FINDER = "a finder of its own, sharp at every distance"
    SENSOR = "the picture of the sensor"


class Opening(StrEnum):
    """Who opens the aperture while one focuses."""

    BODY = "the body, where it works the aperture"
    HAND = "the photographer, by hand"
    NOBODY = "nobody; it does not bear on what is seen"


class Joins(StrEnum):
    """How the lens is joined to the camera."""

    MOUNT = "a mount"
    FIXED = "for good"
    BOARD = "a board before bellows"


class SetBy(StrEnum):
    """What the distance is set with."""

    RING = "a ring"
    WIRE = "a ring by wire"
    KEYS = "keys or a wheel"
    RAIL = "a rail"


class ScaleShown(StrEnum):
    """How the distance set is shown."""

    RING = "an engraved ring"
    BAR = "a bar on the screen"
    NUMBERS = "numbers only"


FILM, DIGITAL = "film", "digital"
_EYEPIECE, _WAIST_MAGNIFIER = 0.9, 1.0
_GLASS = ("matte", "split_image", "microprism")
_LIVE = ("magnified", "peaking", "live")
_LEVELS = (PeakingLevel("low", 0.2), PeakingLevel("mid", 0.1), PeakingLevel("high", 0.05))
_DISPLAY = (MagnifiedView(1280, (6, 12)), Peaking(1280, _LEVELS))
_LEAF = (1 / 500, 1.0)  # a shutter between the lens's glasses
_NEAR_POINT_MM, _FINDER_FOCAL_MM = 250.0, 50.0


@dataclass(frozen=True, kw_only=True)
class CameraKind:
    """A kind of camera.

    Parameters
    ----------
    id, label, tells
        Its key, what it is called, and how one recognises it.
    finders
        Kinds of finder it may have, the usual one first.
    media
        What it may record on, the usual one first.
    size
        The usual picture size, by name.
    viewing, opening
        What focus is judged through, and who opens the aperture meanwhile.
    joins
        How the lens is joined to it.
    set_by, scale
        What the distance is set with, and how it is shown.
    aids
        Tags of the kinds of aid it can have; the scale of the lens is not among them.
    usual
        The aids it usually has, with typical values.
    autofocus
        Whether such cameras may focus by themselves.
    meters
        Whether such cameras usually measure light.
    shutter_s
        The shortest and longest marked times they usually have, s; None for those of its finder.
    """

    id: CameraKindId
    label: str
    tells: str
    finders: tuple[FinderKind, ...]
    media: tuple[str, ...]
    size: str = "36 × 24"
    viewing: Viewing
    opening: Opening = Opening.NOBODY
    joins: Joins = Joins.MOUNT
    set_by: SetBy = SetBy.RING
    scale: ScaleShown = ScaleShown.RING
    aids: tuple[str, ...] = ()
    usual: tuple[AidRecord, ...] = ()
    autofocus: bool = False
    meters: bool = True
    shutter_s: tuple[float, float] | None = None

    def can_have(self, tag: str) -> bool:
        """Whether it can have an aid of a kind, by its tag; what is not known can have any."""
        return self.id is CameraKindId.UNKNOWN or tag in self.aids

    @property
    def on_sensor(self) -> bool:
        """Whether it always records on a sensor."""
        return self.media == (DIGITAL,)

    @property
    def has_mount(self) -> bool:
        """Whether lenses go on and off: only then are mount, register, pin and lever asked for."""
        return self.joins is Joins.MOUNT

    @property
    def sees_focus(self) -> bool:
        """Whether what one looks at gets sharp and soft as the distance is set."""
        return self.viewing is not Viewing.OWN_FINDER

    @property
    def has_screen(self) -> bool:
        """Whether it has a screen of glass that prisms can sit in."""
        return self.can_have("split_image")

    @property
    def noun(self) -> str:
        """What the distance is set on, in a word."""
        return {ScaleShown.RING: "ring", ScaleShown.BAR: "bar", ScaleShown.NUMBERS: "bed"}[self.scale]

    @property
    def turns(self) -> bool:
        """Whether there is a ring that stands where it is left, so that tape and marks hold."""
        return self.set_by is SetBy.RING


def finder_magnification_of_loupe(loupe: float) -> float:
    """Return what a loupe makes of a ground glass, by the measure of finders: as with a 50 mm lens at infinity.

    A loupe of ``M`` times enlarges over 250 mm, as an eyepiece of ``250/M`` mm does; a finder's magnification is 50 mm
    over the focal length of its eyepiece.

    Parameters
    ----------
    loupe
        Magnification of the loupe over 250 mm, a ratio.

    Examples
    --------
    >>> finder_magnification_of_loupe(4)
    0.8
    """
    return loupe * _FINDER_FOCAL_MM / _NEAR_POINT_MM


CAMERA_KINDS: tuple[CameraKind, ...] = (
    CameraKind(
        id=CameraKindId.SLR, label="SLR (eye-level)",
        tells="mirror and optical finder, no live view",
        finders=(FinderKind.SLR,), media=(FILM, DIGITAL), viewing=Viewing.TAKING_LENS, opening=Opening.BODY,
        aids=(*_GLASS, "confirmation"), usual=(MatteScreen(_EYEPIECE),), autofocus=True,
    ),
    CameraKind(
        id=CameraKindId.SLR_LIVE, label="SLR with live view",
        tells="optical finder, and a rear screen that shows the sensor’s picture",
        finders=(FinderKind.SLR,), media=(DIGITAL,), viewing=Viewing.TAKING_LENS, opening=Opening.BODY,
        aids=(*_GLASS, "confirmation", *_LIVE), usual=(MatteScreen(_EYEPIECE), _DISPLAY[0]), autofocus=True,
    ),
    CameraKind(
        id=CameraKindId.WAIST, label="SLR with waist-level finder",
        tells="one lens; viewed from above, left and right reversed",
        finders=(FinderKind.SLR,), media=(FILM, DIGITAL), size="6 × 6", viewing=Viewing.TAKING_LENS,
        opening=Opening.BODY, aids=_GLASS, usual=(MatteScreen(_WAIST_MAGNIFIER),), meters=False, shutter_s=_LEAF,
    ),
    CameraKind(
        id=CameraKindId.TWIN, label="Twin-lens reflex",
        tells="two lenses; you view through the upper one",
        finders=(FinderKind.SLR,), media=(FILM,), size="6 × 6", viewing=Viewing.OWN_LENS, joins=Joins.FIXED,
        aids=_GLASS, usual=(MatteScreen(_WAIST_MAGNIFIER),), meters=False, shutter_s=_LEAF,
    ),
    CameraKind(
        id=CameraKindId.RANGEFINDER, label="Rangefinder camera",
        tells="two images in a patch coincide when in focus",
        finders=(FinderKind.RANGEFINDER,), media=(FILM, DIGITAL), viewing=Viewing.OWN_FINDER,
        aids=("rangefinder", *_LIVE), usual=(RangefinderPatch(45.0, 0.7),),
    ),
    CameraKind(
        id=CameraKindId.SCALE, label="Viewfinder or folding camera",
        tells="the finder does not show focus; you estimate the distance and set it",
        finders=(FinderKind.ZONE,), media=(FILM,), viewing=Viewing.OWN_FINDER, joins=Joins.FIXED, meters=False,
    ),
    CameraKind(
        id=CameraKindId.VIEW, label="View camera",
        tells="bellows, and a ground glass in place of the film",
        finders=(FinderKind.GROUND_GLASS,), media=(FILM, DIGITAL), size="4 × 5 in", viewing=Viewing.TAKING_LENS,
        opening=Opening.HAND, joins=Joins.BOARD, set_by=SetBy.RAIL, scale=ScaleShown.NUMBERS, aids=("matte",),
        usual=(MatteScreen(finder_magnification_of_loupe(4), 1.4),), meters=False, shutter_s=_LEAF,
    ),
    CameraKind(
        id=CameraKindId.MIRRORLESS, label="Mirrorless camera",
        tells="the finder or rear screen shows the sensor’s picture; interchangeable lenses",
        finders=(FinderKind.ELECTRONIC, FinderKind.REAR_SCREEN), media=(DIGITAL,), viewing=Viewing.SENSOR,
        opening=Opening.BODY, aids=_LIVE, usual=_DISPLAY, autofocus=True,
    ),
    CameraKind(
        id=CameraKindId.FIXED_RING, label="Compact or bridge camera with a focus ring",
        tells="fixed lens; mechanical ring with engraved distances",
        finders=(FinderKind.REAR_SCREEN, FinderKind.ELECTRONIC), media=(DIGITAL,), size="crop 1.5",
        viewing=Viewing.SENSOR, opening=Opening.BODY, joins=Joins.FIXED, aids=_LIVE, usual=_DISPLAY, autofocus=True,
    ),
    CameraKind(
        id=CameraKindId.FIXED_WIRE, label="Compact or bridge camera, focus by wire",
        tells="fixed lens; endless ring, distance shown on the screen",
        finders=(FinderKind.ELECTRONIC, FinderKind.REAR_SCREEN), media=(DIGITAL,), size="1 in",
        viewing=Viewing.SENSOR, opening=Opening.BODY, joins=Joins.FIXED, set_by=SetBy.WIRE, scale=ScaleShown.BAR,
        aids=_LIVE, usual=_DISPLAY, autofocus=True,
    ),
    CameraKind(
        id=CameraKindId.COMPACT, label="Compact with a distance bar",
        tells="fixed lens; buttons or a wheel move a mark along a bar on the screen",
        finders=(FinderKind.REAR_SCREEN,), media=(DIGITAL,), size="1/1.7 in", viewing=Viewing.SENSOR,
        opening=Opening.BODY, joins=Joins.FIXED, set_by=SetBy.KEYS, scale=ScaleShown.BAR,
        aids=_LIVE, usual=_DISPLAY[:1], autofocus=True,
    ),
)  # fmt: skip
# What is not known is asked everything.
UNKNOWN_KIND = CameraKind(
    id=CameraKindId.UNKNOWN, label="not said", tells="every aid and every question",
    finders=tuple(FinderKind), media=(DIGITAL, FILM), viewing=Viewing.TAKING_LENS,
    autofocus=True,
)  # fmt: skip
KIND_BY_ID = {one.id: one for one in (*CAMERA_KINDS, UNKNOWN_KIND)}


class ScreenCentre(StrEnum):
    """What sits in the middle of a screen."""

    NONE = "plain"
    SPLIT = "split"
    MICROPRISM = "microprism"
    BOTH = "both"


def usual_aids(kind: CameraKind, *, prisms: ScreenCentre = ScreenCentre.NONE) -> tuple[AidRecord, ...]:
    """Return the aids that a camera of a kind usually has, with what sits in the middle of its screen.

    Parameters
    ----------
    kind
        Kind of camera.
    prisms
        What sits in the middle of the screen.
    """
    screen = next((aid for aid in kind.usual if isinstance(aid, MatteScreen)), None)
    if screen is None or not kind.has_screen:
        return kind.usual
    seen = screen.finder_magnification
    split = (SplitImage(seen),) if prisms in (ScreenCentre.SPLIT, ScreenCentre.BOTH) else ()
    microprism = (Microprism(seen),) if prisms in (ScreenCentre.MICROPRISM, ScreenCentre.BOTH) else ()
    return (screen, *split, *microprism, *(aid for aid in kind.usual if aid is not screen))


def kind_by_finder(finder: FinderKind, tags: set[str]) -> CameraKind:
    """Return the kind of a camera of which only the finder and the tags of its aids are known.

    Parameters
    ----------
    finder
        Kind of finder.
    tags
        Tags of the aids.
    """
    live = bool(tags & set(_LIVE))
    found = {
        FinderKind.SLR: CameraKindId.SLR_LIVE if live else CameraKindId.SLR,
        FinderKind.RANGEFINDER: CameraKindId.RANGEFINDER, FinderKind.ZONE: CameraKindId.SCALE,
        FinderKind.ELECTRONIC: CameraKindId.MIRRORLESS, FinderKind.REAR_SCREEN: CameraKindId.MIRRORLESS,
        FinderKind.GROUND_GLASS: CameraKindId.VIEW,
    }.get(finder, CameraKindId.UNKNOWN)  # fmt: skip
    return KIND_BY_ID[found]
