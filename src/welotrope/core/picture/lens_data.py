"""The data a manual lens never sent, as the standard metadata properties of a picture."""

from __future__ import annotations

import datetime as dt
import math
from dataclasses import dataclass, field
from enum import StrEnum

from welotrope.core.kit.setup import Setup
from welotrope.core.picture.picture import Picture
from welotrope.core.review.frame import Frame
from welotrope.core.review.roll import Roll

# EXIF: all ones stands for infinity; 1 for a scanner of transparent film.
_INFINITE, _FILM_SCANNER = "4294967295/1", "1"
_DESCRIBED = 1000


class Form(StrEnum):
    """How a property is written."""

    TEXT = "text"
    SEQUENCE = "sequence"  # in order
    BAG = "bag"  # without order, added to what is there
    ALTERNATIVE = "alternative"  # one for each language; what is there stays


@dataclass(frozen=True)
class Property:
    """A metadata property: its name with prefix, such as ``exif:FNumber``, and its value or values as written."""

    name: str
    value: str | tuple[str, ...]
    form: Form = Form.TEXT


@dataclass(frozen=True, kw_only=True)
class LensData:
    """What is known of a frame that its picture may be given; ``setup`` and ``roll`` None when they are not known."""

    frame: Frame
    picture: Picture
    setup: Setup | None = None
    roll: Roll | None = None
    now: dt.datetime = field(default=dt.datetime(2000, 1, 1))

    def properties(self) -> tuple[Property, ...]:
        """Return the properties to write, in order; what is not known is left out."""
        found = [*self._lens(), *self._setting(), *self._film(), *self._words()]
        if found:
            found.append(Property("xmp:MetadataDate", self.now.isoformat(timespec="seconds")))
        return tuple(found)

    def _lens(self) -> list[Property]:
        frame, found = self.frame, []
        if frame.lens_name:
            found += [Property("exifEX:LensModel", frame.lens_name), Property("aux:Lens", frame.lens_name)]
        lens = None if self.setup is None else self.setup.whole or self.setup.lens
        if lens is not None:
            widest = min(lens.stops)
            focals = (lens.zoom.focals_mm if lens.zoom is not None else ()) or (lens.focal_mm,)
            long_end = (lens.zoom.widest_long if lens.zoom is not None else None) or widest
            spec = tuple(rational(one) for one in (min(focals), max(focals), widest, long_end))
            found += [
                Property("exifEX:LensSpecification", spec, Form.SEQUENCE),
            ]
            if widest >= 1:  # an unsigned rational: a lens faster than f/1 cannot be told by it
                found.append(Property("exif:MaxApertureValue", rational(apex_aperture(widest), per=100)))
        return found

    def _setting(self) -> list[Property]:
        frame, found = self.frame, []
        if frame.focal_mm is not None:
            found.append(Property("exif:FocalLength", rational(frame.focal_mm)))
        if frame.stop is not None:
            found.append(Property("exif:FNumber", rational(frame.stop)))
            if frame.stop >= 1:
                found.append(Property("exif:ApertureValue", rational(apex_aperture(frame.stop), per=100)))
        if frame.said_mm is not None:
            infinite = math.isinf(frame.said_mm)
            found.append(
                Property("exif:SubjectDistance", _INFINITE if infinite else rational(frame.said_mm / 1000, per=1000))
            )
        if frame.spot is not None:
            at = (round(frame.spot.x * self.picture.width_px), round(frame.spot.y * self.picture.height_px))
            found.append(Property("exif:SubjectArea", tuple(map(str, at)), Form.SEQUENCE))
        return found

    def _film(self) -> list[Property]:
        """Return what a scan cannot know: body, exposure, speed and date of a frame of film."""
        frame, roll = self.frame, self.roll
        if not frame.film_frame and roll is None:
            return []
        found = [Property("exif:FileSource", _FILM_SCANNER)]
        if frame.body_name:
            found.append(Property("tiff:Model", frame.body_name))
        if frame.shutter_s is not None:
            found.append(Property("exif:ExposureTime", exposure_time(frame.shutter_s)))
        speed = (roll.exposure_index if roll is not None else None) or frame.iso
        if speed is not None:
            found.append(Property("exifEX:PhotographicSensitivity", str(speed)))
        if not frame.undated:
            found.append(Property("exif:DateTimeOriginal", frame.taken_at.isoformat(timespec="seconds")))
        source = roll.describe(film_frame=frame.film_frame) if roll is not None else f"Film, frame {frame.film_frame}"
        found.append(Property("dc:source", source))
        return found

    def _words(self) -> list[Property]:
        frame, found = self.frame, []
        described = ". ".join(part for part in (frame.subject, " ".join(frame.note.split())) if part)
        if described:
            found.append(Property("dc:description", described[:_DESCRIBED], Form.ALTERNATIVE))
        if frame.tags:
            found.append(Property("dc:subject", frame.tags, Form.BAG))
        return found


def rational(value: float, *, per: int = 10) -> str:
    """Return a pure number as a rational with a denominator, such as ``28/10``; whole ones over 1.

    Parameters
    ----------
    value
        The number.
    per
        Denominator.

    Examples
    --------
    >>> rational(2.8), rational(50), rational(0.95)
    ('28/10', '50/1', '95/100')
    """
    while abs(value * per - round(value * per)) > 1e-6 and per < 1000:
        per *= 10
    top = round(value * per)
    return f"{top // per}/1" if top % per == 0 else f"{top}/{per}"


def exposure_time(seconds: float) -> str:
    """Return a shutter time, s, as a rational: ``1/250``, ``15/1``.

    Parameters
    ----------
    seconds
        Time in s.

    Examples
    --------
    >>> exposure_time(0.004), exposure_time(15), exposure_time(0.4)
    ('1/250', '15/1', '4/10')
    """
    return f"1/{round(1 / seconds)}" if seconds < 0.3 else rational(seconds)


def apex_aperture(stop: float) -> float:
    """Return the APEX value of an f-number, a pure number: ``2·log₂ N`` (ISO 12232, EXIF).

    Parameters
    ----------
    stop
        F-number, 0.5 to 128.

    Examples
    --------
    >>> apex_aperture(4)
    4.0
    """
    return 2 * math.log2(stop)
