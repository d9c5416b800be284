"""What zones are asked for."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from enum import StrEnum

from welotrope.core.errors import Field
from welotrope.core.inputs import Ask, check_limits, choice_input, field_spec, number_input
from welotrope.core.ring.survey import distance_cell
from welotrope.web.forms.record_form import record_form
from welotrope.web.rooms.plan.inputs import overlap_asked, stop_asked


class HowMany(StrEnum):
    """How many zones to remember."""

    ONE = "1"
    TWO = "2"
    THREE = "3"


@dataclass(frozen=True, kw_only=True)
class ZonesAsked:
    """Zones: how many, from where inwards, at a stop or in to a distance (mm)."""

    count: HowMany = field(
        metadata=field_spec(choice_input("count", "Number of zones", HowMany, HowMany.TWO, ask=Ask.PICK))
    )
    stop: float = field(metadata=field_spec(stop_asked(8.0, hint="used when “near end” is empty")))
    far_mm: float = field(
        metadata=field_spec(
            distance_cell(
                "far",
                Field("far", "far"),
                "Far end",
                optional=True,
                empty=math.inf,
                usual="∞",
                hint="if empty: the horizon",
            )
        )
    )
    near_mm: float | None = field(
        metadata=field_spec(
            distance_cell(
                "near",
                Field("near", "near"),
                "Near end",
                optional=True,
                example="1.2 m",
                example_ft="4 ft",
                hint="e.g. 1.5 m; the widest f-stop that reaches it is used",
            )
        )
    )
    overlap: float = field(
        metadata=field_spec(overlap_asked(0.0, hint="of the window, as a margin for setting errors"))
    )
    tilt_deg: float = field(
        metadata=field_spec(
            number_input(
                "tilt",
                Field("tilt", "tilt"),
                "Waist-level tilt upwards",
                unit="°",
                low=-80,
                high=80,
                empty=10.0,
                usual="10",
            )
        )
    )

    def __post_init__(self) -> None:
        check_limits(self)


ZonesForm = record_form(ZonesAsked)
