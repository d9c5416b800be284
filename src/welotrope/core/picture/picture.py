"""A picture as it is known: where its file lies, what the camera wrote into it, and the frame it belongs to."""

from __future__ import annotations

import datetime as dt
import math
from dataclasses import dataclass, field

from welotrope.core.kit.setup import Setup


@dataclass(frozen=True, kw_only=True)
class PictureExif:
    """What a camera or scanner wrote: mm, seconds, f-number; None or '' for what it left empty.

    ``focal_in_35mm`` is the focal length that shows as much on 24 × 36 mm.
    ``offset_min`` is how far its clock was set from universal time, minutes; ``subsecond_s`` the part of a second
    that goes with the time.
    """

    camera: str = ""
    lens: str = ""
    focal_mm: float | None = None
    stop: float | None = None
    shutter_s: float | None = None
    iso: int | None = None
    offset_min: int | None = None
    subsecond_s: float | None = None
    number: str = ""
    focal_in_35mm: float | None = None

    @property
    def sensor_width_mm(self) -> float | None:
        """The longer side of the sensor, mm, from the focal length that would show as much on 24 × 36 mm."""
        if not self.focal_mm or not self.focal_in_35mm:
            return None
        return 36.0 * self.focal_mm / self.focal_in_35mm


@dataclass(frozen=True, kw_only=True)
class NewPicture:
    """A picture that was read.

    Parameters
    ----------
    sha256, name, folder, media_type, bytes
        Its file; ``folder`` is empty for one that was dropped on the page.
    width_px, height_px
        The right way up.
    taken_at
        As its camera wrote it, local and naive; None when it wrote nothing that makes sense.
    exif
        What else the camera wrote.
    """

    sha256: str
    name: str
    folder: str = ""
    media_type: str
    bytes: int
    width_px: int
    height_px: int
    taken_at: dt.datetime | None = None
    exif: PictureExif = field(default_factory=PictureExif)


@dataclass(frozen=True, kw_only=True)
class Picture(NewPicture):
    """A stored picture; ``clock_s`` is what is added to its time to put its camera's clock right, seconds."""

    id: int
    clock_s: float = 0.0
    batch: str = ""
    outing_id: int | None = None
    frame_id: int | None = None
    thumb_sha: str | None = None
    preview_sha: str | None = None
    original_sha: str | None = None

    @property
    def when(self) -> dt.datetime | None:
        """When it was taken, with its clock put right; local and naive."""
        return None if self.taken_at is None else self.taken_at + dt.timedelta(seconds=self.clock_s)

    @property
    def aspect(self) -> float:
        """Width by height, a pure number."""
        return self.width_px / self.height_px

    @property
    def thumb(self) -> str:
        """Where the page finds its thumbnail."""
        return f"/log/pictures/{self.id}/thumb" if self.thumb_sha else ""


def pixel_pitch_mm(setup: Setup, width_px: int, height_px: int) -> float:
    """Return how far apart the pixels of a picture are on the sensor or film, mm.

    A picture of any size of the whole frame: by its longer side, whichever way it was held.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    width_px
        Width of the picture in pixels.
    height_px
        Height of the picture in pixels.
    """
    image = setup.body.image
    return max(image.width_mm, image.height_mm) / max(width_px, height_px)


def sharp_blur_px(setup: Setup, width_px: int, height_px: int) -> float:
    """Return the blur, a standard deviation in pixels, of what the standard in hand still calls sharp.

    A disc of diameter ``c`` has the standard deviation ``c/4``.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    width_px
        Width of the picture in pixels.
    height_px
        Height of the picture in pixels.
    """
    pitch = pixel_pitch_mm(setup, width_px, height_px)
    return math.hypot(setup.blur_mm / pitch / 4, 0.5)  # half a pixel: no picture is sharper than its pixels
