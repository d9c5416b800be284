"""What is compared."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

from welotrope.core.errors import Field
from welotrope.core.inputs import Input, asks
from welotrope.core.ring.reading_inputs import distance_cell
from welotrope.core.units.stops import format_stop, parse_stop
from welotrope.web.forms.record_form import record_form


@dataclass(frozen=True, kw_only=True)
class CompareAsked:
    """A zone (mm), and a stop to compare at."""

    near_mm: float = field(
        metadata=asks(
            distance_cell(
                "near", Field("near", "near"), "Sharp from", usual="2 m", half_empty="Write a distance, such as 2 m"
            )
        )
    )  # fmt: skip
    far_mm: float = field(
        metadata=asks(
            distance_cell(
                "far", Field("far", "far"), "to", optional=True, empty=math.inf, usual="6 m", hint="∞ if empty"
            )
        )
    )  # fmt: skip
    stop: float = field(
        metadata=asks(
            Input(
                name="stop", field=Field("stop", "stop"), label="And at", usual="f/8", empty=8.0,
                read=lambda text, _typed: parse_stop(text), write=format_stop,
            )
        )
    )  # fmt: skip


CompareForm = record_form(CompareAsked)
