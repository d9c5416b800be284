"""A manual lens: what is engraved on it and what is known of its ring."""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace
from enum import StrEnum

from welotrope.core import fields
from welotrope.core.errors import ConflictError, Field, OutOfRangeError, TooCloseError
from welotrope.core.inputs import (
    CompositeField,
    FormInput,
    Group,
    Reader,
    Text,
    check_limits,
    field_spec,
    name_input,
    subform,
    tick_input,
)
from welotrope.core.kit import lens_inputs as inputs
from welotrope.core.kit.lens_inputs import InfinitySide
from welotrope.core.kit.mount import Mount
from welotrope.core.kit.traits import LensFit
from welotrope.core.kit.zoom import Zoom
from welotrope.core.optics.thin_lens import check_focal, shortest_film_distance
from welotrope.core.ring.curved_ring import zoomed_separation
from welotrope.core.ring.focus_ring import check_throw
from welotrope.core.ring.helicoid import Helicoid, ring_mm_per_degree
from welotrope.core.units.distance import Unit, check_distance, write_distance
from welotrope.core.units.exposure import check_stop, format_stop
from welotrope.core.units.text import check_name

ASSUMED_THROW_DEG = 180.0
MOST_ENGRAVED = 40  # distances of one scale
MOST_PLANES = 2.0  # separation of the principal planes, focal lengths
_ASSUMED_SHORTENED = 0.75
_THIRD_STOP = 2 ** (1 / 6)  # in f-numbers


class RingSource(StrEnum):
    """How the ring's travel is known."""

    MEASURED = "measured"
    READING = "one reading"
    EYE = "by eye"
    ASSUMED = "assumed"


@dataclass(frozen=True)
class RingReading:
    """One engraved distance (mm, film plane) and the ring angle in degrees from infinity at which it sits."""

    angle_deg: float
    distance_mm: float


def _take_reading(reader: Reader, typed: FormInput) -> RingReading | None:
    """Read both halves of a reading when either is given."""
    if not typed.text(inputs.READING_ANGLE.name) and not typed.text(inputs.READING_DISTANCE.name):
        return None
    angle, distance = inputs.READING_ANGLE.must(reader, typed), inputs.READING_DISTANCE.must(reader, typed)
    return RingReading(angle, distance)


def _reading_texts(reading: RingReading | None) -> dict[str, Text]:
    if reading is None:
        return {inputs.READING_ANGLE.name: "", inputs.READING_DISTANCE.name: ""}
    return {
        inputs.READING_ANGLE.name: inputs.READING_ANGLE.write(reading.angle_deg),
        inputs.READING_DISTANCE.name: inputs.READING_DISTANCE.write(reading.distance_mm),
    }


@dataclass(frozen=True, kw_only=True)
class Lens:
    """A manual lens.

    Parameters
    ----------
    name
        As the photographer calls it.
    focal_mm
        Marked focal length, 1 to 5000 mm; of a zoom the one in hand, the longest as entered.
    stops
        Marked stops, widest first.
    closest_mm
        Closest focus from the film plane, mm; at least 4·focal.
    throw_deg, throw_by_eye
        Travel from infinity to closest focus, None when not known, and whether it is only judged by eye.
    reading
        One ring reading, used for the lead when the throw is not measured.
    infinity_side
        Side of the index on which infinity lies.
    ring_diameter_mm
        Diameter over the grip; None when not measured.
    engraved_units
        Systems engraved on the ring; empty for a lens with no scale.
    engraved_m, engraved_ft
        The engraved distances of each scale, in metres and in feet as they stand there; empty for a usual set.
    mount
        Its mount; None when not entered.
    zoom
        How it zooms.
    fit
        Construction at the rear.
    h_mm
        Separation of the principal planes, negative when they cross; None when not known.
    shortens
        Whether it focuses internally, so that its ring is a curve.
    closest_magnification
        Magnification at closest focus, 0.01 to 20; None when not known. With the distance it gives ``h``.
    beyond
        Whether it works at and above life size: ``closest_mm`` is then the distance at the end of its travel.
    best_stop, corner_stop
        The stop at which its middle is sharpest, and the one from which on its corners are as sharp as they get; None
        when not known.
    wide_blur_mm, corner_blur_mm
        How much more it blurs of itself at its widest stop than at its sharpest, in the middle and in the corners: the
        diameter of a disc, 0 to 0.5 mm; None when not known.
    factor
        Of glass behind it, already in focal length and stops; 1 for the lens by itself.
    """

    name: str = field(
        metadata=field_spec(name_input(fields.LENS_NAME, hint="Any name you like", columns=("name", "lens")))
    )
    focal_mm: float = field(metadata=field_spec(inputs.FOCAL))
    stops: tuple[float, ...] = field(metadata=field_spec(inputs.STOPS))
    closest_mm: float = field(metadata=field_spec(inputs.CLOSEST_FOCUS))
    throw_deg: float | None = field(default=None, metadata=field_spec(inputs.THROW))
    throw_by_eye: bool = field(
        default=False,
        metadata=field_spec(tick_input("throw_by_eye", "Estimated by eye, not measured", group=Group.RING)),
    )
    ring_diameter_mm: float | None = field(default=None, metadata=field_spec(inputs.DIAMETER))
    reading: RingReading | None = field(
        default=None,
        metadata=field_spec(
            CompositeField(
                inputs=(inputs.READING_DISTANCE, inputs.READING_ANGLE), made=_take_reading, texts=_reading_texts,
                description="One engraved distance and the ring angle at which it sits",
            )
        ),
    )  # fmt: skip
    infinity_side: InfinitySide = field(default=InfinitySide.RIGHT, metadata=field_spec(inputs.INFINITY_SIDE))
    engraved_units: tuple[Unit, ...] = field(
        default=(Unit.METRIC, Unit.FEET), metadata=field_spec(inputs.ENGRAVED_UNITS)
    )
    closest_magnification: float | None = field(default=None, metadata=field_spec(inputs.MAGNIFICATION))
    h_mm: float | None = field(default=None, metadata=field_spec(inputs.PLANES))
    shortens: bool = field(default=False, metadata=field_spec(inputs.SHORTENS))
    beyond: bool = field(default=False, metadata=field_spec(inputs.BEYOND))
    engraved_m: tuple[float, ...] = field(default=(), metadata=field_spec(inputs.ENGRAVED_M))
    engraved_ft: tuple[float, ...] = field(default=(), metadata=field_spec(inputs.ENGRAVED_FT))
    mount: Mount | None = field(default=None, metadata=field_spec(inputs.MOUNT))
    zoom: Zoom = field(default_factory=Zoom, metadata=subform(Zoom))
    fit: LensFit = field(default_factory=LensFit, metadata=subform(LensFit))
    best_stop: float | None = field(default=None, metadata=field_spec(inputs.BEST_STOP))
    corner_stop: float | None = field(default=None, metadata=field_spec(inputs.CORNER_STOP))
    wide_blur_mm: float | None = field(default=None, metadata=field_spec(inputs.WIDE_BLUR))
    corner_blur_mm: float | None = field(default=None, metadata=field_spec(inputs.CORNER_BLUR))
    factor: float = 1.0

    def __post_init__(self) -> None:
        check_name(self.name, fields.LENS_NAME)
        check_focal(self.focal_mm)
        for stop in self.stops:
            check_stop(stop, field=fields.STOPS)
        if not self.stops:
            raise ConflictError(
                fields.STOPS, "", "a lens has at least one stop", "Write the engraved stops, such as 2 2.8 4"
            )
        for known, asked in ((self.best_stop, fields.BEST_STOP), (self.corner_stop, fields.CORNER_STOP)):
            if known is not None:
                check_stop(known, field=asked)
        self._check_closest()
        check_limits(self)
        self.zoom.check(self.focal_mm, self.widest, self.closest_mm)
        if self.zoom and self.beyond:
            raise ConflictError(
                fields.FOCALS, "", "nothing here is known of a zoom that works beyond life size",
                "Enter each of its focal lengths as a lens of its own",
            )  # fmt: skip
        if self.throw_deg is not None:
            check_throw(self.throw_deg)
        if self.ring_diameter_mm is not None:
            ring_mm_per_degree(self.ring_diameter_mm)
        for unit, engraved in ((Unit.METRIC, fields.ENGRAVED_M), (Unit.FEET, fields.ENGRAVED_FT)):
            self._check_engraved(unit, engraved)
        self.helicoid()

    def _check_engraved(self, unit: Unit, asked: Field) -> None:
        if len(self.engraved_in(unit)) > MOST_ENGRAVED:
            raise OutOfRangeError(
                asked, f"{len(self.engraved_in(unit))} distances", "that is more than a ring holds",
                f"Give at most {MOST_ENGRAVED}",
            )  # fmt: skip
        for mm in self.engraved_in(unit):
            check_distance(mm, field=asked)
            if math.isfinite(mm) and not mm >= self.closest_mm * (1 - 1e-3):
                raise ConflictError(
                    asked, write_distance(mm), "that is nearer than closest focus",
                    f"Leave it out or correct closest focus ({write_distance(self.closest_mm)})",
                )  # fmt: skip

    def engraved_in(self, unit: Unit) -> tuple[float, ...]:
        """Distances engraved in a unit, mm."""
        listed = self.engraved_m if unit is Unit.METRIC else self.engraved_ft
        return tuple(value * unit.mm for value in listed)

    def _check_closest(self) -> None:
        if not self.closest_mm <= 1e5:
            raise OutOfRangeError(
                fields.CLOSEST, "∞" if math.isinf(self.closest_mm) else f"{self.closest_mm / 1000:g} m",
                "a ring must turn nearer than that", "Write the nearest engraved distance, such as 0.45 m",
            )  # fmt: skip
        _check_planes(self)
        shortest = shortest_film_distance(self.focal_mm, h=self.separation_mm)
        if not self.closest_mm >= shortest * (1 - 1e-9):
            raise TooCloseError(
                fields.CLOSEST, f"{self.closest_mm / 1000:g} m",
                f"with its principal planes {self.separation_mm:g} mm apart a {self.focal_mm:g} mm lens needs at least"
                f" {shortest / 1000:g} m",
                "Measure from the film plane, not from the front of the lens, or correct the separation",
            )  # fmt: skip

    @property
    def separation_mm(self) -> float:
        """Separation of the principal planes to reckon with, mm.

        As known; else what makes closest focus and its magnification agree, ``D = f·(1+m)²/m + h``; else 0, and for a
        lens that comes nearer than four focal lengths what an assumed shortening by a quarter gives. Of a zoom these
        hold at its long end.
        """
        f = self.read_at_mm
        return zoomed_separation(self._separation_at(f), f, self.focal_mm)

    def _separation_at(self, f: float) -> float:
        if self.h_mm is not None:
            return self.h_mm
        if self.closest_magnification is not None:
            return self.closest_mm - _length_at(self.closest_magnification, f)
        if self.closest_mm >= shortest_film_distance(f):
            return 0.0
        return self.closest_mm - _length_at(_assumed_magnification(self.closest_mm, f), f)

    @property
    def direction(self) -> int:
        """Way of its scale, a pure number: +1 when nearer distances lie to the right of infinity, −1 to the left."""
        return 1 if self.infinity_side is InfinitySide.LEFT else -1

    @property
    def focals_words(self) -> str:
        """Its focal length in words, mm: ``50 mm``, of a zoom both ends, ``35–70 mm``."""
        ends = (self.zoom.focals_mm[0], self.zoom.focals_mm[-1]) if self.zoom else (self.focal_mm,)
        return "–".join(f"{focal:g}" for focal in ends) + " mm"

    @property
    def read_at_mm(self) -> float:
        """Focal length its ring is read at, mm: of a zoom the longest."""
        return self.zoom.long_mm if self.zoom else self.focal_mm

    @property
    def separation_known(self) -> bool:
        """Whether the separation of the principal planes rests on what was entered."""
        return self.h_mm is not None or self.closest_magnification is not None

    @property
    def ring_source(self) -> RingSource:
        """How the travel of the ring is known."""
        if self.throw_deg is not None:
            return RingSource.EYE if self.throw_by_eye else RingSource.MEASURED
        return RingSource.READING if self.reading is not None else RingSource.ASSUMED

    @property
    def widest(self) -> float:
        """Widest marked stop."""
        return min(self.stops)

    def check_has(self, stop: float) -> float:
        """Return ``stop`` when the lens can be set to it, else raise OutOfRangeError.

        A third of a stop beyond either end of the marked ones is let pass: f/1.7 is written 1.8. How small a lens goes
        of which a single stop is on record is not known.
        """
        smallest = max(self.stops) if len(self.stops) > 1 else math.inf
        if self.widest / _THIRD_STOP <= stop <= smallest * _THIRD_STOP:
            return stop
        ends = format_stop(self.widest) + ("" if math.isinf(smallest) else f" to {format_stop(smallest)}")
        raise OutOfRangeError(
            "stop", format_stop(stop), f"{self.name} {'opens' if stop < self.widest else 'closes'} no further than"
            f" {format_stop(self.widest if stop < self.widest else smallest)}", f"Write a stop it has, {ends}",
        )  # fmt: skip

    def helicoid(self) -> Helicoid:
        """Return the ring as a plain helicoid: from the throw, else the reading, else an assumed 180° throw."""
        h, beyond = self.separation_mm, self.beyond
        if self.throw_deg is None and self.reading is not None:
            return Helicoid.from_reading(
                self.focal_mm, self.closest_mm, self.reading.angle_deg, self.reading.distance_mm, h_mm=h, beyond=beyond
            )
        throw_deg = self.throw_deg or ASSUMED_THROW_DEG
        return Helicoid.from_closest_focus(self.focal_mm, self.closest_mm, throw_deg, h_mm=h, beyond=beyond)

    def through(self, factor: float) -> Lens:
        """Return the lens with glass of a factor behind it: focal length and stops grow by it, distances stay."""
        if factor == self.factor:
            return self
        change = factor / self.factor
        return replace(
            self, focal_mm=self.focal_mm * change, stops=tuple(stop * change for stop in self.stops), factor=factor,
            # What the planes and life size become behind other glass is not known.
            h_mm=None, closest_magnification=None, zoom=self.zoom.times(change) if self.zoom else self.zoom,
            best_stop=_times(self.best_stop, change), corner_stop=_times(self.corner_stop, change),
            wide_blur_mm=_times(self.wide_blur_mm, change), corner_blur_mm=_times(self.corner_blur_mm, change),
        )  # fmt: skip

    def own_blur_mm(self, stop: float, *, corner: bool) -> float | None:
        """Return how much more than at its sharpest the lens blurs of itself at a stop, mm; None when not known.

        It falls from the widest stop to nothing at the sharpest, with the square of the aperture, as coma does;
        spherical aberration falls faster, astigmatism more slowly (third-order theory).
        """
        widest, sharpest = (self.corner_blur_mm, self.corner_stop) if corner else (self.wide_blur_mm, self.best_stop)
        if widest is None:
            return None
        here, least = ((self.widest / one) ** 2 if one else 0.0 for one in (stop, sharpest))
        return widest * min(max((here - least) / (1 - least), 0.0), 1.0) if least < 1 else 0.0

    def zoomed(self, focal_mm: float) -> Lens:
        """Return a zoom, given as entered, at one of its focal lengths, mm; any other lens as it is.

        Raises
        ------
        OutOfRangeError
            When it does not zoom to it.
        """
        if not self.zoom:
            return self
        stops = self.zoom.stops_at(self.zoom.check_focal(focal_mm), self.stops)
        if focal_mm == self.focal_mm:
            return self if stops == self.stops else replace(self, stops=stops)
        return replace(self, focal_mm=focal_mm, stops=stops)

    @property
    def mm_per_degree(self) -> float | None:
        """Surface travel of the ring per degree, mm; None when its diameter is not known."""
        return None if self.ring_diameter_mm is None else ring_mm_per_degree(self.ring_diameter_mm)


def _length_at(m: float, focal_mm: float) -> float:
    """Object-to-film distance at a magnification with the principal planes together: ``f·(1+m)²/m``."""
    return focal_mm * (1 + m) ** 2 / m


def _assumed_magnification(closest_mm: float, focal_mm: float) -> float:
    """Magnification at closest focus of a lens shortened by a quarter, life size if it must be more."""
    share = max(closest_mm / (_ASSUMED_SHORTENED * focal_mm), 4.0) / 2 - 1
    return share - math.sqrt(share * share - 1)


def _check_planes(lens: Lens) -> None:
    f, m, h = lens.read_at_mm, lens.closest_magnification, lens.h_mm
    if h is not None and not -MOST_PLANES * f <= h <= MOST_PLANES * f:
        raise OutOfRangeError(
            fields.PLANES, f"{h:g} mm", "no lens has them so far apart",
            f"Write {-MOST_PLANES * f:g} to {MOST_PLANES * f:g} mm, or leave it empty",
        )  # fmt: skip
    if m is None:
        return
    if not 0.01 <= m <= 20:
        raise OutOfRangeError(
            fields.MAGNIFICATION,
            f"{m:g}",
            "out of range",
            "Write 0.01 to 20, such as 0.5 for half life size",
        )
    if (m > 1) != lens.beyond and m != 1:
        raise ConflictError(
            fields.MAGNIFICATION, f"{m:g}",
            "that is beyond life size" if m > 1 else "that is less than life size",
            "Say that the lens works beyond life size" if m > 1 else "Say that the lens does not work beyond life size",
        )  # fmt: skip
    if h is not None and abs(lens.closest_mm - h - _length_at(m, f)) > 0.05 * lens.closest_mm:
        raise ConflictError(
            fields.MAGNIFICATION, f"{m:g}",
            f"with planes {h:g} mm apart it would be reached at {(_length_at(m, f) + h) / 1000:.3g} m",
            "Correct one of the three, or leave the separation empty",
        )  # fmt: skip


def _times(value: float | None, change: float) -> float | None:
    return None if value is None else value * change
