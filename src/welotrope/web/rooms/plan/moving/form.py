"""What is asked of a subject that moves."""

from __future__ import annotations

from dataclasses import dataclass, field

from welotrope.core.errors import Field
from welotrope.core.exposure.motion import MOVERS
from welotrope.core.inputs import check_limits, field_spec, number_input, tick_input
from welotrope.core.kit.aids.models import Eye
from welotrope.core.plan.moving import MovingAsked, hand_of
from welotrope.core.ring.survey import distance_cell
from welotrope.web.forms.record_form import record_form
from welotrope.web.rooms.plan.inputs import path_asked, speed_asked, stop_asked

_GOING = tuple(one for one in MOVERS if one.speed > 0.3)


@dataclass(frozen=True, kw_only=True)
class TrapAsked:
    """A trap: where, at which stop, what comes and how it is shot; mm, m/s, degrees, frames per second, ms."""

    distance_mm: float = field(
        metadata=field_spec(
            distance_cell(
                "distance",
                Field("distance", "distance"),
                "Catch it at",
                usual="5 m",
                half_empty="Write a distance, such as 5 m",
            )
        )
    )
    stop: float = field(metadata=field_spec(stop_asked(8.0)))
    speed: float = field(metadata=field_spec(speed_asked(_GOING, "walking", "Subject")))
    angle_deg: float = field(metadata=field_spec(path_asked(0.0)))
    receding: bool = field(metadata=field_spec(tick_input("receding", "moving away")))
    rate: float = field(
        metadata=field_spec(
            number_input(
                "rate",
                Field("rate", "burst rate"),
                "Burst rate",
                unit="frames per second",
                low=0.1,
                high=240,
                empty=3.0,
            )
        )
    )
    burst_s: float = field(
        metadata=field_spec(
            number_input("burst", Field("burst", "burst"), "Held for", unit="s", low=0.1, high=10, empty=1.0, usual="1")
        )
    )
    lag_ms: float = field(
        metadata=field_spec(
            number_input("lag", Field("lag", "release lag"), "Shutter lag", unit="ms", low=0, high=5000, empty=100.0)
        )
    )

    def __post_init__(self) -> None:
        check_limits(self)

    def planned(self, eye: Eye) -> MovingAsked:
        """Return what is planned, with the photographer's own reaction and turn."""
        return MovingAsked(
            distance_mm=self.distance_mm, stop=self.stop, speed=self.speed, angle_deg=self.angle_deg,
            receding=self.receding, rate=self.rate, lag_s=self.lag_ms / 1000, hand=hand_of(eye), burst_s=self.burst_s,
            turn_s=eye["ring_turn"],
        )  # fmt: skip


TrapForm = record_form(TrapAsked)
