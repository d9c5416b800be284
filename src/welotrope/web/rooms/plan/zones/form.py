"""What zones are asked for."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from enum import StrEnum

from welotrope.core.errors import Field
from welotrope.core.inputs import Ask, Input, asks, check_limits, choice_input, number_input
from welotrope.core.ring.reading_inputs import distance_cell
from welotrope.core.units.numbers import number
from welotrope.core.units.stops import format_stop, parse_stop
from welotrope.web.forms.record_form import record_form


class HowMany(StrEnum):
    """How many zones to remember."""

    ONE = "1"
    TWO = "2"
    THREE = "3"


def _overlap(text: str) -> float:
    return number(text, "overlap", "%") / 100


@dataclass(frozen=True, kw_only=True)
class ZonesAsked:
    """Zones: how many, from where inwards, at a stop or in to a distance (mm)."""

    count: HowMany = field(
        metadata=asks(choice_input("count", "How many to remember", HowMany, HowMany.TWO, ask=Ask.PICK))
    )
    stop: float = field(
        metadata=asks(
            Input(
                name="stop",
                field=Field("stop", "stop"),
                label="Stop",
                hint="taken if nothing is written under “in to”",
                read=lambda text, _typed: parse_stop(text),
                write=format_stop,
                empty=8.0,
            )
        )
    )
    far_mm: float = field(
        metadata=asks(
            distance_cell(
                "far",
                Field("far", "far"),
                "From",
                optional=True,
                empty=math.inf,
                usual="∞",
                hint="the horizon if empty",
            )
        )
    )
    near_mm: float | None = field(
        metadata=asks(
            distance_cell(
                "near",
                Field("near", "near"),
                "In to",
                optional=True,
                example="1.2 m",
                example_ft="4 ft",
                hint="the widest stop that reaches there is found",
            )
        )
    )
    overlap: float = field(
        metadata=asks(
            Input(
                name="overlap",
                field=Field("overlap", "overlap"),
                label="Overlap",
                unit="%",
                mode="decimal",
                optional=True,
                empty=0.0,
                hint="of a window, against a careless hand",
                low=0,
                high=0.9,
                per=1.0,
                read=lambda text, _typed: _overlap(text),
                write=lambda share: f"{share * 100:g}",
            )
        )
    )
    tilt_deg: float = field(
        metadata=asks(
            number_input(
                "tilt",
                Field("tilt", "tilt"),
                "Camera at the waist tilted up by",
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
