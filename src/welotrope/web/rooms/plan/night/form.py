"""What is asked of a night."""

from __future__ import annotations

from dataclasses import dataclass, field

from welotrope.core.errors import Field
from welotrope.core.exposure.film import MOST_EXPONENT
from welotrope.core.inputs import Input, asks, check_limits, number_input
from welotrope.core.ring.reading_inputs import distance_cell
from welotrope.core.units.stops import format_stop, parse_stop
from welotrope.web.forms.record_form import record_form


@dataclass(frozen=True, kw_only=True)
class NightAsked:
    """A night: stop, where in the sky (degrees), a foreground (mm), and the film's exponent."""

    stop: float = field(
        metadata=asks(
            Input(
                name="stop",
                field=Field("stop", "stop"),
                label="Stop",
                read=lambda text, _typed: parse_stop(text),
                write=format_stop,
                empty=2.8,
            )
        )
    )
    declination_deg: float = field(
        metadata=asks(
            number_input(
                "declination",
                Field("declination", "declination"),
                "Stars at declination",
                unit="°",
                low=-90,
                high=90,
                empty=0.0,
                usual="0",
                hint="0 is the equator, where they run fastest; 90 the pole",
            )
        )
    )
    foreground_mm: float | None = field(
        metadata=asks(
            distance_cell(
                "foreground",
                Field("foreground", "foreground"),
                "A foreground at",
                optional=True,
                example="4 m",
                example_ft="12 ft",
            )
        )
    )
    exponent: float | None = field(
        metadata=asks(
            number_input(
                "exponent", Field("exponent", "reciprocity exponent"), "Reciprocity exponent", low=1,
                high=MOST_EXPONENT,
                hint="of the film’s data sheet; empty on a sensor",
            )
        )
    )  # fmt: skip

    def __post_init__(self) -> None:
        check_limits(self)


NightForm = record_form(NightAsked)
