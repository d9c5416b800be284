"""An adapter between a lens's mount and a body's."""

from __future__ import annotations

from dataclasses import dataclass, field

from welotrope.core import fields
from welotrope.core.errors import ConflictError, OutOfRangeError
from welotrope.core.inputs import Group, check_limits, field_spec, name_input, number_input, tick_input
from welotrope.core.kit.mount import Mount, YesNoUnknown, known_input, mount_input
from welotrope.core.units.text import check_name

MAX_THICKNESS_MM, DEEPEST_MM = 150.0, -20.0
LEAST_FACTOR, MOST_FACTOR = 0.3, 4.0
PROUDEST_GLASS_MM = -30.0


@dataclass(frozen=True, kw_only=True)
class Adapter:
    """An adapter.

    Parameters
    ----------
    name
        What it is called.
    lens_side, body_side
        The mount it takes lenses of, and the mount it goes on.
    nominal_mm, measured_mm
        Thickness as sold and as measured from face to face, −20 to 150; 0 when flush, negative when it sinks the lens
        into the body; None when not known.
    optics, factor
        Whether it has glass of its own, and by what that multiplies focal length and f-number, 0.3 to 4; None when
        not known.
    glass_depth_mm
        How far its glass lies behind its front mount face, mm, −30 to 150; negative when it stands out towards the
        lens; None when not measured.
    presses_pin
        Whether it presses an aperture pin.
    works_aperture
        Whether it has a control for the lens's aperture.
    foot
        Whether it has a tripod foot.
    """

    name: str = field(metadata=field_spec(name_input(fields.ADAPTER_NAME)))
    lens_side: Mount = field(
        metadata=field_spec(mount_input(name="lens_side", label="Lens side mount", says="lens side", optional=False))
    )
    body_side: Mount = field(
        metadata=field_spec(
            mount_input(name="body_side", label="Body side mount", says="body side", optional=False, also=("adapter",))
        )
    )
    nominal_mm: float | None = field(
        default=None, metadata=field_spec(number_input("nominal", fields.NOMINAL, "Thickness as sold", unit="mm"))
    )
    measured_mm: float | None = field(
        default=None,
        metadata=field_spec(
            number_input(
                "measured", fields.MEASURED, "Thickness as measured", unit="mm",
                hint="Measure face to face with a caliper at three places and take the middle value. 0.1 mm too"
                " thick loses infinity",
            )
        ),
    )  # fmt: skip
    optics: bool = field(default=False, metadata=field_spec(tick_input("optics", "Contains glass", group=Group.TICKS)))
    presses_pin: YesNoUnknown = field(
        default=YesNoUnknown.UNKNOWN, metadata=field_spec(known_input("presses_pin", "Presses an aperture pin"))
    )
    works_aperture: bool = field(
        default=False, metadata=field_spec(tick_input("works_aperture", "Has an aperture control", group=Group.TICKS))
    )
    foot: bool = field(default=False, metadata=field_spec(tick_input("foot", "Has a tripod foot", group=Group.TICKS)))
    factor: float | None = field(
        default=None,
        metadata=field_spec(
            number_input(
                "factor", fields.FACTOR, "Magnification of its glass", unit="×",
                hint="1.4 for a teleconverter, 0.7 for a focal reducer; it changes focal length and f-numbers",
            )
        ),
    )  # fmt: skip
    glass_depth_mm: float | None = field(
        default=None,
        metadata=field_spec(
            number_input(
                "glass_depth", fields.GLASS_DEPTH, "Depth of its front glass", unit="mm",
                hint="From the front mount face back to the glass, e.g. 3.5; with a minus if the glass stands out"
                " towards the lens",
            )
        ),
    )  # fmt: skip

    def __post_init__(self) -> None:
        check_name(self.name, fields.ADAPTER_NAME)
        check_limits(self)
        if self.lens_side == self.body_side and not self.optics:
            raise ConflictError(
                fields.ADAPTER_SIDES, f"{self.lens_side.name} to {self.body_side.name}", "it points at its own mount",
                "Choose the lens's mount on one side and the body's on the other, or say that it has glass of its own",
            )  # fmt: skip
        for asked, value in ((fields.NOMINAL, self.nominal_mm), (fields.MEASURED, self.measured_mm)):
            if value is not None and not DEEPEST_MM <= value <= MAX_THICKNESS_MM:
                raise OutOfRangeError(
                    asked,
                    f"{value:g} mm",
                    "no adapter has that",
                    f"Write {DEEPEST_MM:g} to {MAX_THICKNESS_MM:g} mm, such as 16.46",
                )
        if self.factor is not None and not self.optics:
            raise ConflictError(
                fields.FACTOR, f"{self.factor:g}×", "an adapter without glass changes nothing",
                "Say that it has optics, or leave the factor empty",
            )  # fmt: skip
        if self.glass_depth_mm is not None and not self.optics:
            raise ConflictError(
                fields.GLASS_DEPTH, f"{self.glass_depth_mm:g} mm", "this adapter is said to contain no glass",
                "Tick “Contains glass”, or leave the depth empty",
            )  # fmt: skip
        if self.glass_depth_mm is not None and not PROUDEST_GLASS_MM <= self.glass_depth_mm <= MAX_THICKNESS_MM:
            raise OutOfRangeError(
                fields.GLASS_DEPTH, f"{self.glass_depth_mm:g} mm", "no glass sits there",
                f"Enter {PROUDEST_GLASS_MM:g} to {MAX_THICKNESS_MM:g} mm, e.g. 3.5",
            )  # fmt: skip
        if self.factor is not None and not LEAST_FACTOR <= self.factor <= MOST_FACTOR:
            raise OutOfRangeError(
                fields.FACTOR,
                f"{self.factor:g}×",
                "no adapter does that",
                f"Write {LEAST_FACTOR:g} to {MOST_FACTOR:g}, such as 1.4",
            )

    @property
    def needed_mm(self) -> float | None:
        """Thickness, mm, that puts infinity where the lens expects it: the difference of the flange distances."""
        lens, body = self.lens_side.register_mm, self.body_side.register_mm
        return None if lens is None or body is None else lens - body

    @property
    def is_converter(self) -> bool:
        """Whether it goes between a lens and a body of one mount, and changes the focal length."""
        return self.lens_side == self.body_side

    @property
    def thickness_mm(self) -> float | None:
        """Thickness in mm as measured, else as sold."""
        return self.nominal_mm if self.measured_mm is None else self.measured_mm

    @property
    def error_mm(self) -> float | None:
        """Thickness error ε, mm, positive too thick; None when unknown or when the adapter has optics of its own."""
        if self.optics or self.needed_mm is None or self.thickness_mm is None:
            return None
        return self.thickness_mm - self.needed_mm


def stacked(lens_side: Mount | None, adapter: Adapter | None, converter: Adapter | None) -> tuple[Adapter, ...]:
    """Return an adapter and a converter in the order from the lens to the body, as their mounts allow.

    Where both ways or neither join, the converter stands behind the adapter.

    Parameters
    ----------
    lens_side
        Mount of the lens, or None where it is not known.
    adapter
        The adapter, or None.
    converter
        The converter, or None.
    """
    if adapter is None or converter is None:
        return tuple(piece for piece in (adapter, converter) if piece is not None)
    before = converter.lens_side == lens_side and converter.body_side == adapter.lens_side
    after = adapter.lens_side == lens_side and adapter.body_side == converter.lens_side
    return (converter, adapter) if before and not after else (adapter, converter)
