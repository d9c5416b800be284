"""What else is known of a body, and of how a lens is built at its rear: the facts rules ask for."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from welotrope.core import fields
from welotrope.core.errors import OutOfRangeError
from welotrope.core.kit.mount import Known
from welotrope.core.units.text import check_name, check_text


class Finder(StrEnum):
    """Kinds of viewfinder."""

    SLR = "reflex screen"
    RANGEFINDER = "rangefinder"
    ELECTRONIC = "electronic finder"
    REAR_SCREEN = "rear screen only"
    ZONE = "zone focus only"
    UNKNOWN = "not known"


# Finders with no screen of glass to judge focus on.
WITHOUT_GLASS = (Finder.ELECTRONIC, Finder.REAR_SCREEN, Finder.ZONE)


class ScaleStandard(StrEnum):
    """What the body's own distance scale on the screen goes by."""

    NONE = "none"
    FILM = "film"
    PIXEL = "pixel"


class ApertureRing(StrEnum):
    """The rear edge of a lens's aperture ring."""

    NONE = "no ring"
    CUT = "cut back or notched"
    UNCUT = "plain, uncut"
    UNKNOWN = "not known"


@dataclass(frozen=True)
class Screen:
    """A focusing screen that the body can take.

    ``split_deg`` and ``microprism_deg`` are prism deviations, None without that aid; ``stop`` is the
    brightness stop below which it shows no thinner depth.
    """

    name: str
    stop: float = 2.8
    split_deg: float | None = None
    microprism_deg: float | None = None

    def __post_init__(self) -> None:
        check_name(self.name, fields.SCREENS)
        _check(fields.SCREENS, self.stop, 0.7, 8)
        _check(fields.SCREENS, self.split_deg, 2, 20)
        _check(fields.SCREENS, self.microprism_deg, 2, 20)


@dataclass(frozen=True)
class BodyTraits:
    """What a body does, beyond its picture format and aids.

    Parameters
    ----------
    finder
        Kind of viewfinder.
    clearance_mm
        Free depth behind the flange before mirror or shutter, mm; None when not known.
    coupling_lever, lever_proud_mm
        Whether a lever or ridge at the mount reads the lens's aperture ring, and how far it stands out before the
        mount's face, mm; None when not known.
    presses_pin
        Whether the body presses an aperture pin of its own mount's lenses.
    screens
        Screens available for it, the fitted one among the aids of the body.
    peaking_colours
        Colours it can peak in.
    stabiliser
        Whether it has in-body stabilisation.
    burst_fps, shutter_lag_ms
        Frames a second and release lag; None when not known.
    distance_scale
        Standard of its screen distance scale.
    aids_need_manual_focus
        Whether the aids appear only in manual focus.
    magnifier_fires
        Whether the automatic magnifier fires with a lens that has no contacts.
    by_wire
        Whether a fixed or native lens focuses by wire.
    slots
        Number of slots for lens data, 0 to 50.
    """

    finder: Finder = Finder.UNKNOWN
    clearance_mm: float | None = None
    coupling_lever: Known = Known.UNKNOWN
    screens: tuple[Screen, ...] = ()
    peaking_colours: tuple[str, ...] = ()
    stabiliser: bool = False
    burst_fps: float | None = None
    shutter_lag_ms: float | None = None
    distance_scale: ScaleStandard = ScaleStandard.NONE
    aids_need_manual_focus: Known = Known.UNKNOWN
    magnifier_fires: Known = Known.UNKNOWN
    by_wire: Known = Known.UNKNOWN
    slots: int = 0
    lever_proud_mm: float | None = None
    presses_pin: Known = Known.UNKNOWN

    def __post_init__(self) -> None:
        for colour in self.peaking_colours:
            check_text(colour, fields.SCREENS, 20)
        for field, value, low, high in (
            (fields.CLEARANCE, self.clearance_mm, 0, 100),
            (fields.BURST, self.burst_fps, 0.1, 240),
            (fields.LAG, self.shutter_lag_ms, 0, 5000),
            (fields.SLOTS, self.slots, 0, 50),
            (fields.LEVER_PROUD, self.lever_proud_mm, 0, 20),
        ):
            _check(field, value, low, high)


@dataclass(frozen=True)
class LensFit:
    """How a lens is built where it meets the body.

    Parameters
    ----------
    protrusion_mm
        How far rear parts stand out behind the flange, mm; 0 for none, None when not known.
    aperture_ring
        Rear edge of the aperture ring.
    pin
        Whether it has a pin that must be pressed for the aperture to close.
    image_circle_mm
        Diameter it covers; None when not known.
    endless
        Whether the focus ring has no hard stops.
    length_mm
        Length from its flange to the front, mm; None when not known.
    rear_mm
        Width of the widest part behind the flange, mm; None when not known.
    """

    protrusion_mm: float | None = None
    aperture_ring: ApertureRing = ApertureRing.UNKNOWN
    pin: Known = Known.UNKNOWN
    image_circle_mm: float | None = None
    endless: bool = False
    length_mm: float | None = None
    rear_mm: float | None = None

    def __post_init__(self) -> None:
        for field, value, low, high in (
            (fields.PROTRUSION, self.protrusion_mm, 0, 80),
            (fields.IMAGE_CIRCLE, self.image_circle_mm, 4, 500),
            (fields.LENGTH, self.length_mm, 2, 1500),
            (fields.REAR_WIDTH, self.rear_mm, 2, 200),
        ):
            _check(field, value, low, high)


def _check(field: str, value: float | None, low: float, high: float) -> None:
    if value is not None and not low <= value <= high:
        raise OutOfRangeError(field, f"{value:g}", "out of range", f"Write {low:g} to {high:g}")
