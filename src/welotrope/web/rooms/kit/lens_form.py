"""The form of a lens."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping

from welotrope.core.errors import ConflictError, OutOfRangeError, WelotropeError
from welotrope.core.fields import ENGRAVED_FT, ENGRAVED_M
from welotrope.core.kit.lens import Lens, RingReading, Side
from welotrope.core.kit.mount import Known, Mount
from welotrope.core.kit.traits import ApertureRing
from welotrope.core.ring.helicoid import ring_mm_per_degree
from welotrope.core.units.distance import Unit, parse_distance, write_distance
from welotrope.core.units.stops import parse_stops
from welotrope.web.forms import Reader, TextForm, field_of, number, required_name
from welotrope.web.rooms.kit.mount_form import named_mount
from welotrope.web.rooms.kit.traits_form import fit_texts, read_fit


class LensForm(TextForm):
    """Fields of a lens as typed."""

    name: str = ""
    focal: str = ""
    stops: str = ""
    closest_focus: str = ""  # not "closest": htmx calls form.closest()
    throw: str = ""
    reading_angle: str = ""
    reading_distance: str = ""
    infinity_side: str = "right"
    diameter: str = ""
    engraved_units: list[str] = ["m", "ft"]
    engraved_m: str = ""
    engraved_ft: str = ""
    mount: str = ""
    protrusion: str = ""
    aperture_ring: str = ApertureRing.UNKNOWN.value
    pin: str = Known.UNKNOWN.value
    image_circle: str = ""
    endless: str = ""
    length: str = ""
    rear: str = ""
    planes: str = ""
    magnification: str = ""
    shortens: str = ""
    beyond: str = ""

    @classmethod
    def of(cls, lens: Lens) -> LensForm:
        """Fill the form from a lens."""
        reading = lens.reading
        return cls(
            name=lens.name,
            focal=f"{lens.focal_mm:g}",
            stops=" ".join(f"{stop:g}" for stop in lens.stops),
            closest_focus=write_distance(lens.closest_mm),
            throw="" if lens.throw_deg is None else f"{lens.throw_deg:g}",
            reading_angle=f"{reading.angle_deg:g}" if reading else "",
            reading_distance=write_distance(reading.distance_mm) if reading else "",
            infinity_side=lens.infinity_side.value,
            diameter="" if lens.ring_diameter_mm is None else f"{lens.ring_diameter_mm:g}",
            engraved_units=[unit.value for unit in lens.engraved_units],
            engraved_m=" ".join(f"{value:.10g}" for value in lens.engraved_m),
            engraved_ft=" ".join(f"{value:.10g}" for value in lens.engraved_ft),
            mount=lens.mount.name if lens.mount else "",
            planes="" if lens.h_mm is None else f"{lens.h_mm:g}",
            magnification="" if lens.closest_magnification is None else f"{lens.closest_magnification:g}",
            shortens="yes" if lens.shortens else "",
            beyond="yes" if lens.beyond else "",
            **fit_texts(lens.fit),
        )

    @property
    def bare(self) -> Unit:
        """Unit of a number without one in a field that is read off the ring: feet when feet alone are engraved."""
        return Unit.FEET if self.engraved_units == [Unit.FEET.value] else Unit.METRIC

    def lens(self, mounts: Mapping[str, Mount]) -> tuple[Lens | None, dict[str, str]]:
        """Return the lens, or None with an error sentence per field; ``mounts`` are by name."""
        reader = Reader()
        bare = self.bare
        name = reader.take("name", lambda: required_name(self.name, "lens name"), "")
        focal = reader.take("focal", lambda: number(self.focal, "focal length", "mm"), 50.0)
        stops: tuple[float, ...] = reader.take("stops", lambda: parse_stops(self.stops), (2.0,))
        closest = reader.take(
            "closest_focus", lambda: parse_distance(self.closest_focus, field="closest focus", bare=bare), 1e4
        )
        diameter = reader.optional("diameter", self.diameter, lambda text: number(text, "ring diameter", "mm"))
        throw = reader.optional("throw", self.throw, lambda text: _throw(text, diameter))
        reading = self._reading(reader, bare)
        none: tuple[float, ...] = ()
        metres = reader.take("engraved_m", lambda: _distances(self.engraved_m, Unit.METRIC), none)
        feet = reader.take("engraved_ft", lambda: _distances(self.engraved_ft, Unit.FEET), none)
        mount = reader.take("mount", lambda: named_mount(self.mount, mounts, "mount"), None) if self.mount else None
        fit = read_fit(self.model_dump(), reader)
        planes = reader.optional(
            "planes", self.planes, lambda text: number(text, "separation of the principal planes", "mm")
        )
        magnification = reader.optional("magnification", self.magnification, _magnification)
        if reader.errors:
            return None, reader.errors
        side = Side.LEFT if self.infinity_side == "left" else Side.RIGHT
        units = tuple(
            unit
            for unit, listed in ((Unit.METRIC, metres), (Unit.FEET, feet))
            if listed or unit.value in self.engraved_units
        )
        try:
            return Lens(
                name, focal, stops, closest, throw, reading, side, diameter, units, metres, feet,
                mount, fit,
                h_mm=planes, closest_magnification=magnification, shortens=bool(self.shortens),
                beyond=bool(self.beyond),
            ), {}  # fmt: skip
        except WelotropeError as error:
            return None, {field_of(error, LensForm, _FIELD_OF): error.sentence}

    def _reading(self, reader: Reader, bare: Unit) -> RingReading | None:
        if not self.reading_angle and not self.reading_distance:
            return None
        angle = reader.take("reading_angle", lambda: number(self.reading_angle, "ring reading in degrees"), 10.0)
        distance = reader.take(
            "reading_distance",
            lambda: parse_distance(self.reading_distance, field="engraved distance read", bare=bare),
            1e4,
        )
        return RingReading(angle, distance)


# Where an error is shown whose input is not called as its key.
_FIELD_OF = {
    "ring_diameter": "diameter", "ring_reading": "reading_angle", "lead": "reading_angle",
    "distance": "reading_distance",
}  # fmt: skip


def _magnification(text: str) -> float:
    """Read a magnification such as ``0.5``, ``1:2`` or ``2:1``."""
    field = "magnification at closest focus"
    first, colon, second = text.partition(":")
    value = number(first, field)
    below = number(second, field) if colon else 1.0
    if below <= 0:
        raise OutOfRangeError(field, text, "that is no magnification", "Write it like 0.5 or 1:2")
    return value / below


def _throw(text: str, diameter_mm: float | None) -> float:
    """Read a throw in degrees, or in mm along a ring of known diameter."""
    match = re.fullmatch(r"(.+?)\s*mm", text.strip().lower())
    if match is None:
        return number(text.lower().replace("deg", ""), "throw in degrees")
    if diameter_mm is None:
        raise ConflictError(
            "throw", text, "millimetres along the ring need its diameter", "Fill in the ring diameter, or give degrees"
        )
    return number(match[1], "throw", "mm") / ring_mm_per_degree(diameter_mm)


def _distances(text: str, unit: Unit) -> tuple[float, ...]:
    """Read the distances of one scale in its own unit, parted by semicolons, or by spaces when they carry no unit."""
    parts = [part.strip() for part in text.split(";")] if ";" in text else text.split()
    field = ENGRAVED_M if unit is Unit.METRIC else ENGRAVED_FT
    read = {parse_distance(part, field=field, bare=unit) for part in parts if part}
    return tuple(sorted(round(mm / unit.mm, 6) for mm in read if math.isfinite(mm)))
