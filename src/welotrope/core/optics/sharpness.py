"""What counts as sharp: the schools' standards, each giving an acceptable blur diameter ``c``."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from enum import StrEnum

from welotrope.core import fields
from welotrope.core.errors import ConflictError, Field, OutOfRangeError
from welotrope.core.inputs import Ask, FormInput, Input, Reader, attributes_of, field_spec, number_input
from welotrope.core.optics.depth import check_blur
from welotrope.core.units.distance import Unit, parse_distance


class Standard(StrEnum):
    """The schools of “acceptably sharp”."""

    PRINT = "print"
    FILM = "film"
    PIXEL = "pixel"
    VIEWING = "viewing"
    OWN = "own"

    @property
    def words(self) -> str:
        """What it goes by."""
        return _WORDS[self][0]

    @property
    def cost(self) -> str:
        """What choosing it brings."""
        return _WORDS[self][1]


_WORDS = {
    Standard.PRINT: ("Print: picture diagonal / 1500", "for prints at arm’s length; the usual choice"),
    Standard.FILM: ("Film: diagonal / 1300", "coarser, since grain hides the rest; many lens engravings assume it"),
    Standard.PIXEL: (
        "Pixel: a multiple of the pixel pitch",
        "sharp at 100 % view; depth of field shrinks to a third or less",
    ),
    Standard.VIEWING: ("Viewing: a print of a size seen from a distance", "for a given print and viewing distance"),
    Standard.OWN: ("Own value", "your own circle of confusion in mm"),
}


def _length_input(name: str, field: Field, label: str) -> Input:
    return Input(
        name=name, field=field, label=label, hint="for viewing", group=Standard.VIEWING, usual="40 cm", empty=400.0,
        read=lambda text, _typed: parse_distance(text, field=field, bare=Unit.METRIC),
        write=lambda mm: f"{mm / 10:g} cm",
    )  # fmt: skip


PIXELS = number_input(
    "pixels", fields.PIXELS_OF_BLUR, "Pixels of blur", hint="for the pixel criterion", group=Standard.PIXEL, usual="2",
    optional=False, empty=2.0,
)  # fmt: skip
PRINT_WIDTH = _length_input("print_width", fields.PRINT_WIDTH, "Print width")
VIEWING = _length_input("viewing", fields.VIEWING, "Seen from")
ACUITY = number_input(
    "acuity", fields.ACUITY, "Acuity", unit="arc-minutes", hint="for the viewing criterion; 2 for a trained"
    " eye", usual="2",
    group=Standard.VIEWING, optional=False, empty=2.0,
)  # fmt: skip
OWN_BLUR = number_input(
    "own", fields.OWN_BLUR, "Circle of confusion", unit="mm", hint="for own value", group=Standard.OWN, usual="0.03",
    optional=False, empty=0.03,
)  # fmt: skip
SCHOOL = Input(
    name="standard", field=fields.STANDARD, label="Sharpness criterion", ask=Ask.PICK, usual=Standard.PRINT.value,
    read=lambda text, _typed: Standard(text) if text in set(Standard) else Standard.PRINT,
    write=lambda kind: str(kind.value), options=tuple((kind.value, kind.words) for kind in Standard),
)  # fmt: skip


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
        for asked, side in ((fields.PICTURE_WIDTH, self.width_mm), (fields.PICTURE_HEIGHT, self.height_mm)):
            if not 1 <= side <= 600:
                raise OutOfRangeError(asked, f"{side:g} mm", "no format is that size", "Write 1 to 600 mm")
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
        Blur in pixel pitches for the pixel criterion, 0.5 to 20.
    print_width_mm, viewing_mm, acuity_arcmin
        Long side of the print, distance it is seen from, and the angle the eye separates (0.3 to 10 arc-minutes).
    own_mm
        Blur in mm for the own standard.
    """

    kind: Standard = field(default=Standard.PRINT, metadata=field_spec(SCHOOL))
    pixels: float = field(default=2.0, metadata=field_spec(PIXELS))
    print_width_mm: float = field(default=400.0, metadata=field_spec(PRINT_WIDTH))
    viewing_mm: float = field(default=400.0, metadata=field_spec(VIEWING))
    acuity_arcmin: float = field(default=2.0, metadata=field_spec(ACUITY))
    own_mm: float = field(default=0.03, metadata=field_spec(OWN_BLUR))

    def __post_init__(self) -> None:
        # Also those of the other schools are kept and written to files.
        for asked, value in (
            (fields.PIXELS_OF_BLUR, self.pixels), (fields.PRINT_WIDTH, self.print_width_mm),
            (fields.VIEWING, self.viewing_mm), (fields.ACUITY, self.acuity_arcmin), (fields.OWN_BLUR, self.own_mm),
        ):  # fmt: skip
            if not 0 < value < 1e6:
                raise OutOfRangeError(asked, f"{value:g}", "that is no usable number", "Write a number above 0")

    @classmethod
    def take(cls, reader: Reader, typed: FormInput) -> SharpnessStandard:
        """Read the standard chosen in a form; what belongs to the other schools stays usual."""
        kind = SCHOOL.take(reader, typed)
        own = {name: asked for name, asked in attributes_of(cls) if asked.group == kind}
        values = {name: asked.take(reader, typed) for name, asked in own.items()}
        return reader.take(SCHOOL.name, lambda: cls(kind=kind, **values), cls())

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
        for asked, value, low, high, unit in (
            (fields.PRINT_WIDTH, self.print_width_mm, 20, 20_000, "mm"),
            (fields.VIEWING, self.viewing_mm, 50, 50_000, "mm"),
            (fields.ACUITY, self.acuity_arcmin, 0.3, 10, "arc-minutes"),
        ):
            if not low <= value <= high:
                raise OutOfRangeError(asked, f"{value:g} {unit}", "out of range", f"Write {low:g} to {high:g} {unit}")
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
