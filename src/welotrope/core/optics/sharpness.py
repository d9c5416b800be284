"""What counts as sharp: the schools' standards, each giving an acceptable blur diameter ``c``."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import StrEnum

from welotrope.core import fields
from welotrope.core.errors import ConflictError, OutOfRangeError
from welotrope.core.optics.depth import check_blur


class Standard(StrEnum):
    """The schools of “acceptably sharp”."""

    PRINT = "print"
    FILM = "film"
    PIXEL = "pixel"
    VIEWING = "viewing"
    OWN = "own"


@dataclass(frozen=True)
class ImageFormat:
    """The picture area on film or sensor.

    Parameters
    ----------
    width_mm, height_mm
        Picture area; 1 to 600 mm a side.
    width_px
        Photosites along ``width_mm``; None for film.
    """

    width_mm: float
    height_mm: float
    width_px: int | None = None

    def __post_init__(self) -> None:
        for field, side in ((fields.PICTURE_WIDTH, self.width_mm), (fields.PICTURE_HEIGHT, self.height_mm)):
            if not 1 <= side <= 600:
                raise OutOfRangeError(field, f"{side:g} mm", "no format is that size", "Write 1 to 600 mm")
        if self.width_px is not None and not 100 <= self.width_px <= 60_000:
            raise OutOfRangeError(fields.PIXELS_ACROSS, self.width_px, "no sensor has that many", "Write 100 to 60000")

    @property
    def diagonal_mm(self) -> float:
        """Diagonal of the picture area in mm."""
        return math.hypot(self.width_mm, self.height_mm)

    @property
    def pitch_mm(self) -> float | None:
        """Pixel pitch in mm, or None for film."""
        return None if self.width_px is None else self.width_mm / self.width_px

    @property
    def pitch_um(self) -> float | None:
        """Pixel pitch in µm, or None for film."""
        return None if self.pitch_mm is None else self.pitch_mm * 1000


@dataclass(frozen=True, kw_only=True)
class SharpnessStandard:
    """A chosen school with its parameters; only those of its own kind are read.

    Parameters
    ----------
    kind
        Which school.
    pixels
        Blur in pixel pitches for the pixel standard, 0.5 to 20.
    print_width_mm, viewing_mm, acuity_arcmin
        Long side of the print, distance it is seen from, and the angle the eye separates (0.3 to 10 arc-minutes).
    own_mm
        Blur in mm for the own standard.
    """

    kind: Standard = Standard.PRINT
    pixels: float = 2.0
    print_width_mm: float = 400.0
    viewing_mm: float = 400.0
    acuity_arcmin: float = 2.0
    own_mm: float = 0.03

    def __post_init__(self) -> None:
        # Also those of the other schools are kept and written to files.
        for field, value in (
            (fields.PIXELS_OF_BLUR, self.pixels), (fields.PRINT_WIDTH, self.print_width_mm),
            (fields.VIEWING, self.viewing_mm), (fields.ACUITY, self.acuity_arcmin), (fields.OWN_BLUR, self.own_mm),
        ):  # fmt: skip
            if not 0 < value < 1e6:
                raise OutOfRangeError(field, f"{value:g}", "that is no usable number", "Write a number above 0")

    def acceptable_blur(self, image: ImageFormat) -> float:
        """Blur diameter ``c`` in mm on this format.

        print: diagonal/1500; film: diagonal/1300; pixel: k·pitch; viewing: the eye's angle on the print
        divided by the enlargement; own: as given.

        Raises
        ------
        ConflictError
            When the pixel standard is asked of film.
        OutOfRangeError
            When the result is no usable blur.
        """
        if self.kind is Standard.PRINT:
            return image.diagonal_mm / 1500
        if self.kind is Standard.FILM:
            return image.diagonal_mm / 1300
        if self.kind is Standard.PIXEL:
            return self._pixel_blur(image)
        if self.kind is Standard.VIEWING:
            return self._viewing_blur(image)
        return check_blur(self.own_mm, field=fields.OWN_BLUR)

    def _pixel_blur(self, image: ImageFormat) -> float:
        if image.pitch_mm is None:
            raise ConflictError(fields.STANDARD, "pixel", "film has no pixels", "Choose print, film, viewing or own")
        if not 0.5 <= self.pixels <= 20:
            raise OutOfRangeError(fields.PIXELS_OF_BLUR, f"{self.pixels:g}", "that is no standard", "Write 0.5 to 20")
        return self.pixels * image.pitch_mm

    def _viewing_blur(self, image: ImageFormat) -> float:
        for field, value, low, high, unit in (
            (fields.PRINT_WIDTH, self.print_width_mm, 20, 20_000, "mm"),
            (fields.VIEWING, self.viewing_mm, 50, 50_000, "mm"),
            (fields.ACUITY, self.acuity_arcmin, 0.3, 10, "arc-minutes"),
        ):
            if not low <= value <= high:
                raise OutOfRangeError(field, f"{value:g} {unit}", "out of range", f"Write {low:g} to {high:g} {unit}")
        enlargement = self.print_width_mm / max(image.width_mm, image.height_mm)
        on_print = self.viewing_mm * math.tan(math.radians(self.acuity_arcmin / 60))
        return check_blur(on_print / enlargement, field=fields.VIEWING_STANDARD)

    def describe(self) -> str:
        """Name the standard in a photographer's words, without the number."""
        return {
            Standard.PRINT: "print",
            Standard.FILM: "film",
            Standard.PIXEL: f"{self.pixels:g} pixels",
            Standard.VIEWING: f"{self.print_width_mm / 10:g} cm print seen from {self.viewing_mm / 10:g} cm",
            Standard.OWN: "own value",
        }[self.kind]
