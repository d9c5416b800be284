"""What is compared."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

from welotrope.core.errors import Field
from welotrope.core.inputs import field_spec
from welotrope.core.ring.reading_inputs import distance_cell
from welotrope.core.units.distance import check_ends
from welotrope.web.forms.record_form import record_form
from welotrope.web.rooms.plan.inputs import stop_asked


@dataclass(frozen=True, kw_only=True)
class CompareAsked:
    """A zone (mm), and a stop to compare at."""

    near_mm: float = field(
        metadata=field_spec(
            distance_cell(
                "near", Field("near", "near"), "Sharp from", usual="2 m", half_empty="Write a distance, such as 2 m"
            )
        )
    )  # fmt: skip
    far_mm: float = field(
        metadata=field_spec(
            distance_cell(
                "far", Field("far", "far"), "to", optional=True, empty=math.inf, usual="6 m", hint="if empty: ∞"
            )
        )
    )  # fmt: skip
    stop: float = field(
        metadata=field_spec(stop_asked(8.0, label="Compare at", usual="f/8"))
    )  # fmt: skip
    width_mm: float | None = field(
        metadata=field_spec(
            distance_cell(
                "width", Field("width", "width"), "Field width", optional=True, example="1.5 m",
                example_ft="5 ft",
                hint="at the focus distance; if empty: the field of the selected set-up",
            )
        )
    )  # fmt: skip

    def __post_init__(self) -> None:
        check_ends(self.near_mm, self.far_mm)


CompareForm = record_form(CompareAsked)
