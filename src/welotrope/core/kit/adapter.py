"""An adapter between a lens's mount and a body's."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.errors import ConflictError, OutOfRangeError
from welotrope.core.kit.mount import Known, Mount

MAX_THICKNESS_MM = 150.0


@dataclass(frozen=True)
class Adapter:
    """An adapter.

    Parameters
    ----------
    name
        What it is called.
    lens_side, body_side
        The mount it takes lenses of, and the mount it goes on.
    nominal_mm, measured_mm
        Thickness as sold and as measured from face to face; greater than 0, at most 150; None when not known.
    optics
        Whether it has glass of its own.
    presses_pin
        Whether it presses an aperture pin.
    works_aperture
        Whether it has a control for the lens's aperture.
    foot
        Whether it has a tripod foot.
    """

    name: str
    lens_side: Mount
    body_side: Mount
    nominal_mm: float | None = None
    measured_mm: float | None = None
    optics: bool = False
    presses_pin: Known = Known.UNKNOWN
    works_aperture: bool = False
    foot: bool = False

    def __post_init__(self) -> None:
        if self.lens_side == self.body_side:
            raise ConflictError(
                "adapter", f"{self.lens_side.name} to {self.body_side.name}", "it points at its own mount",
                "Choose the lens's mount on one side and the body's on the other",
            )  # fmt: skip
        for field, value in (("nominal thickness", self.nominal_mm), ("measured thickness", self.measured_mm)):
            if value is not None and not 0 < value <= MAX_THICKNESS_MM:
                raise OutOfRangeError(
                    field,
                    f"{value:g} mm",
                    "no adapter has that",
                    f"Write up to {MAX_THICKNESS_MM:g} mm, such as 16.46",
                )

    @property
    def needed_mm(self) -> float | None:
        """Thickness that puts infinity where the lens expects it: the difference of the registers."""
        lens, body = self.lens_side.register_mm, self.body_side.register_mm
        return None if lens is None or body is None else lens - body

    @property
    def thickness_mm(self) -> float | None:
        """Thickness as measured, else as sold."""
        return self.nominal_mm if self.measured_mm is None else self.measured_mm

    @property
    def error_mm(self) -> float | None:
        """Thickness error ε, positive too thick; None when unknown or when the adapter has optics of its own."""
        if self.optics or self.needed_mm is None or self.thickness_mm is None:
            return None
        return self.thickness_mm - self.needed_mm
