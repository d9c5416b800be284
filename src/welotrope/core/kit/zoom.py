"""A zoom: its marked focal lengths, how its widest stop goes with them, and what focus does when it is zoomed.

The focus ring of a zoom moves a group in front of the one that zooms, so that an engraved distance is in focus at
every focal length. A lens that holds this is parfocal. What lies behind it, an adapter that is too thick or too thin,
moves the image by the same millimetres at every focal length while the ring makes up for it at one only.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, field

from welotrope.core import fields
from welotrope.core.errors import ConflictError, Field, OutOfRangeError, UnreadableError
from welotrope.core.inputs import Group, Input, check_limits, field_spec
from welotrope.core.kit.mount import YesNoUnknown, known_input
from welotrope.core.optics.thin_lens import check_focal
from welotrope.core.ring.survey import distance_cell
from welotrope.core.units.distance import write_distance
from welotrope.core.units.exposure import check_stop, parse_stop, stops_between
from welotrope.core.units.text import number

_MOST_MARKED = 16
_WORKS = "Write the marked focal lengths, such as 35 50 70, or the ends: 35-70"
_SPAN = re.compile(r"^(\S+?)\s*(?:-|–|—|\.\.+|\bto\b)\s*(\S+)$")
_SAME_MARK = 0.2  # steps between an interpolated widest stop and a marked one that is taken for it


def parse_focals(text: str, *, asked: Field = fields.FOCALS) -> tuple[float, ...]:
    """Read marked focal lengths, mm: ``35 50 70``, ``35-70``, ``35, 50, 70 mm``; sorted, no repeats.

    Parameters
    ----------
    text
        What was typed.
    asked
        What an error names.

    Raises
    ------
    UnreadableError, OutOfRangeError
        When a part is no focal length, or there are more than sixteen.
    """
    stripped = re.sub(r"\s*mm\b", "", text.strip().lower()[:200])
    span = _SPAN.match(stripped)
    parts = list(span.groups()) if span else [part for part in re.split(r"[\s;]+|,\s+", stripped) if part]
    found = sorted({check_focal(number(part, asked, unit="mm")) for part in parts})
    if not found or len(found) > _MOST_MARKED:
        problem = f"that is more than {_MOST_MARKED}" if found else "no focal length was found"
        raise UnreadableError(asked, text, problem, _WORKS)
    if span and float(span[1].replace(",", ".")) > float(span[2].replace(",", ".")):
        raise UnreadableError(asked, text, "that runs from long to short", _WORKS)
    return tuple(found)


def write_focals(focals_mm: tuple[float, ...]) -> str:
    """Write focal lengths, mm, as :func:`parse_focals` reads them.

    Parameters
    ----------
    focals_mm
        Focal lengths in mm.
    """
    return " ".join(f"{focal:g}" for focal in focals_mm)


@dataclass(frozen=True, kw_only=True)
class Zoom:
    """How a lens zooms; of a lens of one focal length every part is empty.

    Parameters
    ----------
    focals_mm
        Marked focal lengths with both ends, mm, shortest first; empty for a lens of one focal length.
    widest_long
        Widest stop at the long end, where it is not that of the short end; None when they are the same.
    parfocal
        Whether the plane of focus stays when it is zoomed.
    drift_from_mm, drift_to_mm
        A trial of that: sharp at the long end at this distance, it is sharp again at the short end when the ring
        reads the second; mm from the film plane, None when not tried.
    """

    focals_mm: tuple[float, ...] = field(
        default=(),
        metadata=field_spec(
            Input(
                name="focals", field=fields.FOCALS, label="Focal lengths of a zoom", unit="mm", group=Group.ZOOM,
                optional=True, empty=(), read=lambda text, _typed: parse_focals(text), write=write_focals,
                hint="e.g. 35 50 70, or the ends: 35-70. Empty for a prime lens", columns=("focals", "focals_mm"),
            )
        ),
    )  # fmt: skip
    widest_long: float | None = field(
        default=None,
        metadata=field_spec(
            Input(
                name="widest_long", field=fields.WIDEST_LONG, label="Widest aperture at the long end, if smaller",
                optional=True, group=Group.ZOOM, hint="e.g. the 4.5 of 1:3.5-4.5",
                read=lambda text, _typed: parse_stop(text, field=fields.WIDEST_LONG),
            )
        ),
    )  # fmt: skip
    parfocal: YesNoUnknown = field(
        default=YesNoUnknown.UNKNOWN,
        metadata=field_spec(known_input("parfocal", "Parfocal (stays in focus when zoomed)", group=Group.ZOOM)),
    )
    drift_from_mm: float | None = field(
        default=None,
        metadata=field_spec(
            distance_cell(
                "drift_from", fields.DRIFT, "Ring reading, focused at the long end", optional=True,
                group=Group.ZOOM, example="3 m", example_ft="10 ft", empty=None,
            )
        ),
    )  # fmt: skip
    drift_to_mm: float | None = field(
        default=None,
        metadata=field_spec(
            distance_cell(
                "drift_to", fields.DRIFT_TO, "Ring reading, focused again at the short end", optional=True,
                group=Group.ZOOM, example="2.6 m", example_ft="8.5 ft", empty=None,
            )
        ),
    )  # fmt: skip

    def __post_init__(self) -> None:
        check_limits(self)
        if self.focals_mm and len(self.focals_mm) < 2:
            raise ConflictError(
                fields.FOCALS, f"{self.focals_mm[0]:g} mm", "a zoom has at least two",
                "Write both ends, such as 35-70, or leave it empty",
            )  # fmt: skip
        if self.widest_long is not None:
            check_stop(self.widest_long, field=fields.WIDEST_LONG)
        if (self.drift_from_mm is None) != (self.drift_to_mm is None):
            raise ConflictError(
                fields.DRIFT, "", "one of the two readings of the trial is missing", "Give both, or neither"
            )

    def __bool__(self) -> bool:
        return bool(self.focals_mm)

    @property
    def long_mm(self) -> float:
        """Focal length of the long end, mm."""
        return self.focals_mm[-1]

    @property
    def tried(self) -> bool:
        """Whether it was tried what focus does when it is zoomed."""
        return self.drift_from_mm is not None

    def check(self, focal_mm: float, widest: float, closest_mm: float) -> None:
        """Check it against focal length and closest focus, mm, and the widest stop of its lens."""
        if not self:
            return
        self.check_focal(focal_mm)
        for asked, mm in ((fields.DRIFT, self.drift_from_mm), (fields.DRIFT_TO, self.drift_to_mm)):
            if mm is not None and mm < closest_mm * (1 - 1e-6):
                raise OutOfRangeError(
                    asked, write_distance(mm), f"the ring stops at {write_distance(closest_mm)}",
                    "Give what its scale reads",
                )  # fmt: skip
        if self.widest_long is not None and self.widest_long < widest * (1 - 1e-9):
            raise OutOfRangeError(
                fields.WIDEST_LONG, f"f/{self.widest_long:g}", f"it is wider than the widest marked, f/{widest:g}",
                "Mark the stops from the widest of the short end on",
            )  # fmt: skip

    def reaches(self, focal_mm: float) -> bool:
        """Whether the lens zooms to a focal length, mm."""
        return bool(self) and self.focals_mm[0] * (1 - 1e-9) <= focal_mm <= self.focals_mm[-1] * (1 + 1e-9)

    def check_focal(self, focal_mm: float) -> float:
        """Return a focal length, mm, when the lens zooms to it, else raise OutOfRangeError."""
        low, high = self.focals_mm[0], self.focals_mm[-1]
        if not self.reaches(focal_mm):
            raise OutOfRangeError(
                fields.ZOOM, f"{focal_mm:g} mm", f"the lens zooms from {low:g} to {high:g} mm",
                f"Write {low:g} to {high:g}",
            )  # fmt: skip
        return focal_mm

    def share(self, focal_mm: float) -> float:
        """How far it is zoomed at a focal length, mm, as a share: 0 at the short end, 1 at the long."""
        low, high = self.focals_mm[0], self.focals_mm[-1]
        return (focal_mm - low) / (high - low)

    def stops_at(self, focal_mm: float, stops: tuple[float, ...]) -> tuple[float, ...]:
        """Return the stops there are at a focal length, mm, of those marked.

        Between the ends the widest stop is taken to go with the focal length in a straight line.
        """
        widest = min(stops)
        if not self or self.widest_long is None:
            return stops
        here = widest + (self.widest_long - widest) * self.share(focal_mm)
        smaller = tuple(stop for stop in stops if stops_between(here, stop) > _SAME_MARK)
        return (round(here, 2), *smaller)

    def times(self, factor: float) -> Zoom:
        """Return it through glass of a factor: focal lengths and the stop grow by it."""
        widest = None if self.widest_long is None else self.widest_long * factor
        return Zoom(
            focals_mm=tuple(focal * factor for focal in self.focals_mm), widest_long=widest, parfocal=self.parfocal,
            drift_from_mm=self.drift_from_mm, drift_to_mm=self.drift_to_mm,
        )  # fmt: skip
