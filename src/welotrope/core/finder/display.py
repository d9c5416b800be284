"""The screen a round is seen on: how large its pixels look, and what the eye can tell apart of them."""

from __future__ import annotations

import math
from dataclasses import dataclass

from welotrope.core.errors import Field, OutOfRangeError
from welotrope.core.finder.finder import WIDTH_PX, Finder, FrameRequest
from welotrope.core.kit.aids import models
from welotrope.core.kit.aids.kind import FinderScene, Indicator, Needle, Patch, Prisms, Split, Through
from welotrope.core.kit.aids.models import AVERAGE_EYE, Eye, eyepiece_focal
from welotrope.core.optics.thin_lens import effective_stop, magnification

CARD_MM = 85.6  # width of a bank or identity card: ISO/IEC 7810, ID-1
DISPLAY_SIZE = Field("display_size", "size on the screen")
EYE_DISTANCE = Field("eye_distance", "distance from the eye")
LEAST_PITCH_MM, MOST_PITCH_MM = 0.03, 1.5
LEAST_EYE_MM, MOST_EYE_MM = 100.0, 5000.0
_ARCSEC = 180 * 3600 / math.pi


@dataclass(frozen=True, kw_only=True)
class Display:
    """A screen as it was measured.

    Parameters
    ----------
    pitch_mm
        Size of a pixel of the page (a CSS pixel), mm, 0.03 to 1.5.
    eye_mm
        From the eye to the screen, mm, 100 to 5000.

    Raises
    ------
    OutOfRangeError
        When one of them is out of range.
    """

    pitch_mm: float
    eye_mm: float

    def __post_init__(self) -> None:
        if not LEAST_PITCH_MM <= self.pitch_mm <= MOST_PITCH_MM:
            raise OutOfRangeError(
                DISPLAY_SIZE, f"{self.pitch_mm:.3g} mm a pixel", "no screen is like that",
                "Hold a card to the frame again, or measure the bar with a ruler",
            )  # fmt: skip
        if not LEAST_EYE_MM <= self.eye_mm <= MOST_EYE_MM:
            raise OutOfRangeError(
                EYE_DISTANCE, f"{self.eye_mm / 10:g} cm", "nobody looks at a screen from there", "Enter e.g. 60 cm"
            )

    @classmethod
    def of_card(cls, card_px: float, *, eye_mm: float) -> Display:
        """Return the screen on which a card is as wide as some pixels of the page."""
        return cls(pitch_mm=CARD_MM / card_px if card_px > 0 else math.inf, eye_mm=eye_mm)

    def width_for(self, angle_rad: float) -> float:
        """Return how wide something has to be, pixels of the page, to be seen under an angle (small), radians."""
        return angle_rad * self.eye_mm / self.pitch_mm

    def pixels_told(self, arcsec: float, *, shown_px: float, picture_px: int) -> float:
        """Return how many pixels of a picture span an angle, one at least.

        Parameters
        ----------
        arcsec
            What the eye tells apart, seconds of arc.
        shown_px, picture_px
            How wide the picture is on the page, and in its own pixels.
        """
        one = shown_px / picture_px * self.pitch_mm / self.eye_mm * _ARCSEC
        return max(arcsec / one, 1.0)


@dataclass(frozen=True, kw_only=True)
class PictureOnDisplay:
    """A screen, and how wide a picture was shown on it, pixels of the page."""

    display: Display
    shown_px: float


def seen_angle(seen: FinderScene, size_mm: float, *, focal_mm: float) -> float | None:
    """Return the angle under which a length on film or sensor is seen in a finder, radians; None for a live picture.

    A screen behind the lens is looked at through an eyepiece of 50 mm over the finder's magnification, whatever the
    lens; a finder of its own shows the scene at its magnification.

    Parameters
    ----------
    seen
        What is looked at.
    size_mm, focal_mm
        The length, and the focal length of the lens.
    """
    if seen.through is Through.DISPLAY or not seen.finder_magnification:
        return None
    behind_mm = eyepiece_focal(seen.finder_magnification)
    return size_mm / behind_mm if seen.through is Through.SCREEN else size_mm * seen.finder_magnification / focal_mm


def shown_defocus(
    finder: Finder,
    look: FrameRequest,
    extension_mm: float,
    *,
    viewing: PictureOnDisplay | None = None,
    eye: Eye = AVERAGE_EYE,
) -> float | None:
    """Return δ, mm, of the picture seen with the lens at ``extension_mm``; None where it shows no focus at all.

    ``look`` gives aid, magnification and peaking level; ``viewing`` the screen, where it was measured: on one whose
    pixels look smaller than the eye tells apart, the eye decides and not the pixel.

    Parameters
    ----------
    finder
        The finder of a round.
    look
        Aid, magnification and peaking level looked with.
    extension_mm
        Extension in mm from the infinity position.
    viewing
        How large the display's pixels look; None where it was not measured.
    eye
        Constants of the eye and of the aids; those of an average eye where none are given.
    """
    instrument, stage = finder.instrument, finder.stage
    f = stage.focal_mm
    working = effective_stop(instrument.view_stop, magnification(max(extension_mm, 0.0), f))
    pixel = finder.pixel_mm(look)
    blur = max(eye["display_blur"], _told(60 * eye["eye_blur"], viewing)) * pixel
    seen = finder.seen(look.aid)
    part = seen.parts[0] if seen.parts else None
    if isinstance(part, Indicator):
        return models.confirmation_defocus(part.base_stop, working, instrument.confirmation_band_mm)
    if isinstance(part, Split | Prisms):
        vernier = eye["vernier_split" if isinstance(part, Split) else "vernier_microprism"]
        return pixel * _told(vernier, viewing) / (2 * math.tan(math.radians(part.deviation_deg)))
    if isinstance(part, Patch):
        # The pictures part by base·f·Δ(1/s), and the image moves by f²·Δ(1/s).
        return pixel * _told(eye["patch_rangefinder"], viewing) * f / part.base_mm
    if isinstance(part, Needle):
        return eye["live_blur"] * pixel * working
    if look.threshold is not None:
        display = 36 * stage.unit_mm / look.step / seen.display_px
        return models.peaking_defocus(display, eye["edge_contrast"], look.threshold, instrument.own_blur_mm, working)
    return blur * max(working, seen.screen_stop)


def _told(arcsec: float, viewing: PictureOnDisplay | None) -> float:
    """Return from how many pixels of the picture on the eye tells an angle; one where the screen is not known."""
    if viewing is None:
        return 1.0
    return viewing.display.pixels_told(arcsec, shown_px=viewing.shown_px, picture_px=WIDTH_PX)
