"""What goes on or under a lens to come closer: close-up lenses, tubes, helicoids, bellows, reversing rings."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import StrEnum

from welotrope.core.errors import ConflictError, Field
from welotrope.core.inputs import Input, check_limits, choice_input, field_spec, name_input, number_input
from welotrope.core.optics.thin_lens import power_from_range
from welotrope.core.units.distance import parse_distance
from welotrope.core.units.text import check_name, number

NAME = Field("attachment_name", "attachment name")
LABELLED = Field("labelled_power", "labelled power")
MEASURED = Field("measured_power", "measured power")
LEAST = Field("least_extension", "least extension")
MOST = Field("most_extension", "most extension")
STRONG_DIOPTRES = 4.0


class AttachmentKind(StrEnum):
    """What it is."""

    CLOSEUP = "close-up lens"
    TUBE = "extension tube"
    HELICOID = "focusing helicoid"
    BELLOWS = "bellows"
    REVERSED = "reversing ring"


def _found_power(text: str) -> float:
    """Read dioptres, or the distance at which things are sharp through it with the main lens at infinity."""
    if text.strip().lower().endswith(("mm", "cm", "m", "in", "ft", '"', "'", "′", "″")):
        return power_from_range(parse_distance(text, field=MEASURED))
    return number(text, MEASURED, unit="dioptres")


@dataclass(frozen=True, kw_only=True)
class Attachment:
    """An attachment.

    Parameters
    ----------
    name
        As the photographer calls it.
    kind
        What it is.
    labelled, measured
        Power of a close-up lens, dioptres, 0.1 to 40: as it says, and as found; None when not known.
    least_mm, most_mm
        Extension it adds, mm, 0 to 500; a tube has one, a reversing ring its own thickness.

    Raises
    ------
    ConflictError, OutOfRangeError
        When what its kind needs is missing or out of range.
    """

    name: str = field(metadata=field_spec(name_input(NAME, hint="Any name you like", columns=("name",))))
    kind: AttachmentKind = field(
        metadata=field_spec(choice_input("kind", "Kind", AttachmentKind, AttachmentKind.CLOSEUP))
    )
    labelled: float | None = field(
        default=None,
        metadata=field_spec(
            number_input(
                "labelled", LABELLED, "Marked power", unit="dioptres", low=0.1, high=40,
                hint="For a close-up lens, e.g. 2 for +2",
            )
        ),
    )  # fmt: skip
    measured: float | None = field(
        default=None,
        metadata=field_spec(
            Input(
                name="measured", field=MEASURED, label="Measured power", unit="dioptres", mode="decimal", optional=True,
                low=0.1, high=40, read=lambda text, _typed: _found_power(text),
                hint="Or the sharp distance from its front with the lens at ∞, e.g. 520 mm; markings are often"
                " inaccurate",
            )
        ),
    )  # fmt: skip
    least_mm: float | None = field(
        default=None,
        metadata=field_spec(
            number_input(
                "least", LEAST, "Extension, shortest", unit="mm", low=0, high=500,
                hint="Length of a tube; shortest length of a helicoid or bellows; thickness of a reversing ring",
            )
        ),
    )  # fmt: skip
    most_mm: float | None = field(
        default=None,
        metadata=field_spec(
            number_input(
                "most", MOST, "Extension, longest", unit="mm", low=0, high=500, hint="For a helicoid or bellows"
            )
        ),
    )

    def __post_init__(self) -> None:
        check_name(self.name, NAME)
        check_limits(self)
        if self.kind is AttachmentKind.CLOSEUP and self.labelled is None and self.measured is None:
            raise ConflictError(
                LABELLED, "", "a close-up lens does nothing without power", "Write what stands on its rim, such as 2"
            )
        if self.kind is not AttachmentKind.CLOSEUP and self.least_mm is None:
            raise ConflictError(LEAST, "", "it adds nothing then", "Write how many mm it adds, such as 12")
        if self.most < self.least:
            raise ConflictError(
                MOST, f"{self.most:g} mm", f"that is less than the least ({self.least:g} mm)", "Swap the two"
            )

    @property
    def power(self) -> float:
        """Power to reckon with, dioptres: as found, else as labelled; 0 for what has none."""
        if self.kind is not AttachmentKind.CLOSEUP:
            return 0.0
        return self.measured or self.labelled or 0.0

    @property
    def least(self) -> float:
        """Least extension, mm; 0 for a close-up lens."""
        return 0.0 if self.kind is AttachmentKind.CLOSEUP else self.least_mm or 0.0

    @property
    def most(self) -> float:
        """Most extension, mm."""
        if self.kind in (AttachmentKind.TUBE, AttachmentKind.REVERSED) or self.most_mm is None:
            return self.least
        return 0.0 if self.kind is AttachmentKind.CLOSEUP else self.most_mm
