"""What is asked of a night."""

from __future__ import annotations

from dataclasses import dataclass, field

from welotrope.core.errors import Field
from welotrope.core.inputs import check_limits, field_spec, number_input
from welotrope.core.ring.reading_inputs import distance_cell
from welotrope.web.forms.record_form import record_form
from welotrope.web.rooms.plan.inputs import exponent_asked, stop_asked


@dataclass(frozen=True, kw_only=True)
class NightAsked:
    """A night: stop, where in the sky (degrees), a foreground (mm), and the film's exponent."""

    stop: float = field(metadata=field_spec(stop_asked(2.8)))
    declination_deg: float = field(
        metadata=field_spec(
            number_input(
                "declination",
                Field("declination", "declination"),
                "Declination of the stars",
                unit="°",
                low=-90,
                high=90,
                empty=0.0,
                usual="0",
                hint="0 at the celestial equator, where stars move fastest; 90 at the pole",
            )
        )
    )
    foreground_mm: float | None = field(
        metadata=field_spec(
            distance_cell(
                "foreground",
                Field("foreground", "foreground"),
                "Foreground distance",
                optional=True,
                example="4 m",
                example_ft="12 ft",
            )
        )
    )
    exponent: float | None = field(
        metadata=field_spec(exponent_asked("from the film’s data sheet; leave empty for a sensor"))
    )  # fmt: skip

    def __post_init__(self) -> None:
        check_limits(self)


NightForm = record_form(NightAsked)
