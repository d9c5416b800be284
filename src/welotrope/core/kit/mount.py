"""Mounts: how a lens sits on a body, how its aperture is worked and how the stop is told."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from welotrope.core import fields
from welotrope.core.errors import OutOfRangeError
from welotrope.core.units.text import check_name


class Known(StrEnum):
    """Yes, no, or not known: the unknown never passes as safe."""

    YES = "yes"
    NO = "no"
    UNKNOWN = "not known"


class Link(StrEnum):
    """How the aperture is actuated, or how the stop is told to the body."""

    NONE = "none"
    MECHANICAL = "mechanical"
    ELECTRONIC = "electronic"
    UNKNOWN = "not known"


@dataclass(frozen=True)
class Mount:
    """A lens mount.

    Parameters
    ----------
    name
        What it is called.
    register_mm
        Flange (registration) distance from mount face to film plane, 1 to 200 mm; None when not known.
    throat_mm
        Inner diameter, 5 to 200 mm; None when not known.
    actuation
        How the aperture is worked by the body: none means the ring on the lens.
    stop_report
        How the stop is told to the body.
    protruding
        Whether lenses of this mount may have rear parts that stand out behind the flange.
    pin
        Whether lenses of this mount may have a pin that must be pressed for the aperture to close.
    """

    name: str
    register_mm: float | None = None
    throat_mm: float | None = None
    actuation: Link = Link.UNKNOWN
    stop_report: Link = Link.UNKNOWN
    protruding: Known = Known.UNKNOWN
    pin: Known = Known.UNKNOWN

    def __post_init__(self) -> None:
        check_name(self.name, fields.MOUNT_NAME)
        for field, value, low, high in (
            (fields.REGISTER, self.register_mm, 1.0, 200.0),
            (fields.THROAT, self.throat_mm, 5.0, 200.0),
        ):
            if value is not None and not low <= value <= high:
                raise OutOfRangeError(field, f"{value:g} mm", "no mount has that", f"Write {low:g} to {high:g} mm")


# Thread standards with their published registers.
STANDARD_MOUNTS = (
    Mount("M42×1", 45.46, 42.0, Link.MECHANICAL, Link.NONE, Known.UNKNOWN, Known.UNKNOWN),
    Mount("M39×26 tpi", 28.8, 39.0, Link.NONE, Link.NONE, Known.UNKNOWN, Known.NO),
    Mount("T2", 55.0, 42.0, Link.NONE, Link.NONE, Known.NO, Known.NO),
    Mount("C", 17.526, 25.4, Link.NONE, Link.NONE, Known.UNKNOWN, Known.NO),
)
