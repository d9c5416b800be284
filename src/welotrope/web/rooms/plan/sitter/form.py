"""What is asked of a sitter."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import StrEnum

from welotrope.core.errors import Field
from welotrope.core.inputs import check_limits, choice_input, field_spec, number_input
from welotrope.core.kit.aids.constants import Eye
from welotrope.core.plan.sitter import together
from welotrope.core.ring.reading_inputs import distance_cell
from welotrope.web.forms.record_form import record_form
from welotrope.web.rooms.plan.inputs import stop_asked


class Stance(StrEnum):
    """Movement between focusing and release."""

    BOTH = "both standing"
    SEATED = "one seated"
    TRIPOD = "tripod, subject seated"


class Where(StrEnum):
    """Where in the picture the eye goes."""

    MIDDLE = "in the middle"
    THIRD = "on the third"
    EDGE = "near the edge"


_WHO = {
    Stance.BOTH: ("body_sway", "body_sway"), Stance.SEATED: ("body_sway", "kneeling_sway"),
    Stance.TRIPOD: ("kneeling_sway",),
}  # fmt: skip
_OFFSETS = {Where.MIDDLE: 0.0, Where.THIRD: 1 / 6, Where.EDGE: 0.4}


@dataclass(frozen=True, kw_only=True)
class SitterAsked:
    """A sitter: how far the eye is (mm), the stop, who sways, where the head goes."""

    distance_mm: float = field(
        metadata=field_spec(
            distance_cell(
                "distance",
                Field("distance", "distance"),
                "Distance to the eye",
                usual="1.5 m",
                half_empty="Write a distance, such as 1.5 m",
            )
        )
    )
    stop: float = field(metadata=field_spec(stop_asked(2.8)))
    stance: Stance = field(
        metadata=field_spec(choice_input("stance", "Movement between focusing and release", Stance, Stance.BOTH))
    )
    sway_mm: float | None = field(
        metadata=field_spec(
            number_input(
                "sway",
                Field("sway", "sway"),
                "Or your own value",
                unit="mm",
                low=0.1,
                high=200,
                hint="change of distance between focusing and release",
            )
        )
    )
    place: Where = field(metadata=field_spec(choice_input("place", "Position of the eye", Where, Where.THIRD)))

    def __post_init__(self) -> None:
        check_limits(self)

    @property
    def offset_share(self) -> float:
        """How far from the middle the eye goes, as a share of the width."""
        return _OFFSETS[self.place]

    def sway(self, eye: Eye) -> float:
        """Sway of both together, mm, standard deviation."""
        if self.sway_mm is not None:
            return self.sway_mm
        return together(*(eye[id] for id in _WHO[self.stance]))


SitterForm = record_form(SitterAsked)
