"""What an aid is judged for, free of any set-up: the optics at one setting, and what there is to focus on."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import StrEnum

from welotrope.core.optics.depth import sharp_limits
from welotrope.core.optics.thin_lens import (
    effective_stop,
    film_distance_at_extension,
    magnification,
    object_distance_at_extension,
)


class Lines(StrEnum):
    """Which lines the subject has, by the split of a split image held level."""

    ACROSS = "across the split"
    ALONG = "along the split"
    BOTH = "both ways"
    NONE = "none"


class Detail(StrEnum):
    """What the subject's detail is like."""

    HARD = "hard edges"
    TEXTURE = "texture"
    FAINT = "low contrast"
    POINTS = "point lights"


class LightLevel(StrEnum):
    """How much light there is."""

    BRIGHT = "daylight"
    ROOM = "lit room"
    DIM = "dim room"
    DARK = "dark"


class FramePlace(StrEnum):
    """Where in the frame the subject sits."""

    CENTRE = "centre"
    THIRD = "third"
    CORNER = "corner"


# Share of the half-diagonal at which each place lies.
PLACE_SHARES = {FramePlace.CENTRE: 0.0, FramePlace.THIRD: 0.4, FramePlace.CORNER: 0.85}


@dataclass(frozen=True, kw_only=True)
class Target:
    """What there is to focus on; the defaults are a hard edge in good light at the centre that keeps still."""

    lines: Lines = Lines.BOTH
    detail: Detail = Detail.HARD
    light: LightLevel = LightLevel.BRIGHT
    place: FramePlace = FramePlace.CENTRE
    moving: bool = False
    tripod: bool = False


_ALIKE = 0.97  # of a stop, within which it counts as that stop


@dataclass(frozen=True, kw_only=True)
class ViewingOptics:
    """The optics at one setting, free of any set-up.

    Parameters
    ----------
    focal_mm, focus_x
        Focal length and extension of the focus, mm.
    stop, view_stop, widest
        Taking stop, the stop one looks through, and the widest the lens has.
    blur_mm
        Acceptable blur diameter, mm.
    degrees_per_mm
        Ring degrees for 1 mm of extension.
    window_deg
        Width of the sharp window on the ring for a subject that stays, degrees.
    mm_per_degree
        Ring surface per degree, mm; None when not known.
    lens_blur_mm
        The lens's own blur at the viewing stop and the subject's place, diffraction included; None for the constants'.
    h_mm
        Separation of the principal planes, mm.
    diagonal_mm
        Diagonal of the picture, mm.
    corner_stop
        Stop from which on the lens's corners are sharp; None when not known.
    middle_blur_mm, corner_blur_mm
        How much more than at its sharpest the lens blurs of itself at the viewing stop, the diameter of a disc, mm;
        None when not known.
    """

    focal_mm: float
    focus_x: float
    stop: float
    view_stop: float
    widest: float
    blur_mm: float
    degrees_per_mm: float
    window_deg: float
    mm_per_degree: float | None = None
    lens_blur_mm: float | None = None
    h_mm: float = 0.0
    diagonal_mm: float = 43.3
    corner_stop: float | None = None
    middle_blur_mm: float | None = None
    corner_blur_mm: float | None = None

    @property
    def soft_corners(self) -> bool:
        """Whether corners have to be taken for softer than the middle, at the stop one looks through."""
        return self.corner_stop is None or self.view_stop < self.corner_stop * _ALIKE

    @property
    def magnification(self) -> float:
        """Magnification at the focus, image over object, a ratio; 0 at infinity."""
        return magnification(max(self.focus_x, 0.0), self.focal_mm)

    @property
    def working_view_stop(self) -> float:
        """The stop one looks through, as it works at this magnification."""
        return effective_stop(self.view_stop, self.magnification)

    @property
    def half_window_mm(self) -> float:
        """Half the sharp window in image space, mm of defocus: what the stop forgives before a subject is soft."""
        return sharp_limits(self.focus_x, self.focal_mm, self.stop, self.blur_mm).spread / 2

    @property
    def degrees_per_defocus(self) -> float:
        """Ring degrees for 1 mm of defocus of a subject that stays, over the sharp window.

        Turning the ring moves the lens towards the subject: ``dx`` of extension is ``(1 − m²)·dx`` of defocus.
        """
        return self.window_deg / self.half_window_mm / 2

    def extension_for(self, defocus_mm: float) -> float:
        """Extension, mm, that the lens must be off by for a defocus, mm, of a subject that stays."""
        return defocus_mm * self.degrees_per_defocus / self.degrees_per_mm

    @property
    def object_mm(self) -> float:
        """Distance focused, mm from the front principal plane; infinite past infinity."""
        return float(object_distance_at_extension(max(self.focus_x, 0.0), self.focal_mm))

    @property
    def view_blur_mm(self) -> float:
        """Blur seen at the viewing stop when the taking stop would just reach the acceptable one, mm."""
        return self.stop * self.blur_mm / self.view_stop

    def film_mm(self, defocus_mm: float) -> float:
        """Film-plane distance in focus, mm, with the ring off by so much that this subject has a defocus, mm."""
        return film_distance_at_extension(self.focus_x + self.extension_for(defocus_mm), self.focal_mm, h=self.h_mm)

    def subject_error_mm(self, defocus_mm: float) -> float:
        """How far off the plane lies for a defocus, mm: half of what lies between either side of it.

        About ``δ·s²/f²``; infinite at infinity, and where the far side runs to infinity.
        """
        ends = self.film_mm(-defocus_mm), self.film_mm(defocus_mm)
        return math.inf if math.inf in ends else abs(ends[0] - ends[1]) / 2


@dataclass(frozen=True)
class Sensor:
    """Pixel pitch in mm and pixels across, for the aids that show a live picture."""

    pitch_mm: float
    width_px: int
