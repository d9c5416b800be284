"""What is asked of a close-up."""

from __future__ import annotations

from dataclasses import dataclass, field

from welotrope.core.errors import Field
from welotrope.core.inputs import Group, Input, check_limits, field_spec, number_input
from welotrope.core.ring.reading_inputs import distance_cell
from welotrope.core.units.distance import parse_distance, write_distance
from welotrope.web.forms.record_form import record_form
from welotrope.web.rooms.plan.inputs import overlap_asked, stop_asked


def _index(text: str) -> int:
    return int(text) if text.isascii() and text.isdigit() and len(text) < 4 else 0


@dataclass(frozen=True, kw_only=True)
class CloseAsked:
    """A thing to fill the picture (mm), the room wanted (mm), the stop, and a depth to stack (mm)."""

    subject_mm: float = field(
        metadata=field_spec(
            distance_cell(
                "subject",
                Field("subject", "size of the thing"),
                "Subject length",
                usual="6 cm",
                half_empty="Write a length, such as 6 cm",
                hint="fills the long side of the picture",
            )
        )
    )
    room_mm: float = field(
        metadata=field_spec(
            Input(
                name="room",
                field=Field("room", "room"),
                label="Least working distance",
                optional=True,
                empty=0.0,
                usual="10 cm",
                hint="e.g. for light, or for animals",
                read=lambda text, typed: 0.0 if text == "0" else parse_distance(text, field="room", bare=typed.bare),
                write=write_distance,
            )
        )
    )
    stop: float = field(metadata=field_spec(stop_asked(8.0, usual="f/8")))
    chosen: int = field(
        metadata=field_spec(
            Input(
                name="chosen",
                field=Field("chosen", "choice"),
                label="Choice",
                optional=True,
                empty=0,
                group=Group.CHOSEN,
                read=lambda text, _typed: _index(text),
                write=str,
            )
        )
    )
    depth_mm: float | None = field(
        metadata=field_spec(
            number_input(
                "depth",
                Field("depth", "depth"),
                "Focus stack depth",
                unit="mm",
                low=0.1,
                high=1000,
                hint="total sharp depth from several frames",
            )
        )
    )
    overlap: float = field(
        metadata=field_spec(overlap_asked(0.2, usual="20"))
    )  # fmt: skip

    def __post_init__(self) -> None:
        check_limits(self)


CloseForm = record_form(CloseAsked)
