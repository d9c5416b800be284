"""What is asked of the light."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

from welotrope.core.errors import ConflictError, Field, OutOfRangeError
from welotrope.core.exposure.holding import HOLDING_BY_ID, HOLDINGS
from welotrope.core.exposure.light import BY_ID, CONDITIONS, check_iso, ev_of_reading
from welotrope.core.exposure.motion import MOVER_BY_ID, MOVERS
from welotrope.core.inputs import Ask, Input, Joined, Reader, Text, Typed, asks, check_limits, number_input
from welotrope.core.kit.setup import Setup
from welotrope.core.plan.light_plan import USUAL_MOST_ISO, Circumstances
from welotrope.core.ring.reading_inputs import distance_cell
from welotrope.core.units.numbers import number
from welotrope.core.units.shutter import parse_shutter
from welotrope.core.units.stops import parse_stop
from welotrope.web.forms.record_form import record_form
from welotrope.web.rooms.plan.inputs import exponent_asked, path_asked

_CONTRADICTS = 1.5  # stops beyond what the named light varies by


def _chosen(name: str, label: str, options: tuple[tuple[str, str], ...], usual: str, group: str) -> Input:
    keys = {key for key, _ in options}
    return Input(
        name=name, field=Field(name, label.lower()), label=label, ask=Ask.CHOICE, options=options, usual=usual,
        read=lambda text, _typed: text if text in keys else usual, write=str, group=group,
    )  # fmt: skip


LIGHT = _chosen("light", "The light", tuple((one.id, one.name) for one in CONDITIONS), "overcast", "light")
METER_SHUTTER = Input(
    name="meter_shutter", field=Field("meter_shutter", "metered shutter"), label="Or as metered: shutter",
    optional=True, example="1/125",
    read=lambda text, _typed: parse_shutter(text, field="metered shutter"), group="meter",
)  # fmt: skip
METER_STOP = Input(
    name="meter_stop", field=Field("meter_stop", "metered stop"), label="at stop", optional=True, example="f/8",
    read=lambda text, _typed: parse_stop(text, field="metered stop"), group="meter",
)  # fmt: skip
METER_ISO = number_input("meter_iso", Field("meter_iso", "metered ISO"), "at ISO", group="meter")


def _take_light(reader: Reader, typed: Typed) -> float:
    """Return the exposure value: of the reading where one was written whole, else of the named light."""
    named = BY_ID[LIGHT.take(reader, typed)]
    parts = (METER_SHUTTER, METER_STOP, METER_ISO)
    written = [one for one in parts if typed.text(one.name)]
    if not written:
        return named.ev
    shutter, stop, iso = (one.must(reader, typed) for one in parts)
    if reader.errors:
        return named.ev

    def read() -> float:
        ev = ev_of_reading(shutter, stop, iso)
        if typed.text("light") and abs(ev - named.ev) > named.half + _CONTRADICTS:
            nearest = min(CONDITIONS, key=lambda one: abs(one.ev - ev))
            raise ConflictError(
                "reading", f"EV {ev:.1f}", f"that contradicts “{named.name}” (EV {named.ev:.0f})",
                f"It reads like “{nearest.name}”: choose that, or leave the reading empty",
            )  # fmt: skip
        return ev

    return reader.take(METER_SHUTTER.name, read, named.ev)


def _light_texts(_ev: float) -> dict[str, Text]:
    return {}


def _take_speed(reader: Reader, typed: Typed) -> float:
    mover = MOVER_BY_ID[MOVES.take(reader, typed)]
    own = SPEED.take(reader, typed)
    return mover.speed if own is None else float(own)


MOVES = _chosen("moves", "What moves", tuple((one.id, one.name) for one in MOVERS), "talking", "moves")
SPEED = number_input("speed", Field("speed", "speed"), "Or its own speed", unit="m/s", low=0, high=400, group="moves")
HELD = _chosen("held", "How it is held", tuple((one.id, one.name) for one in HOLDINGS), "hand", "held")


@dataclass(frozen=True, kw_only=True)
class LightAsked:
    """The zone, the light, what moves and how the camera is held; distances in mm, speed m/s, angle in degrees."""

    near_mm: float = field(
        metadata=asks(
            distance_cell(
                "near",
                Field("near", "near"),
                "Sharp from",
                usual="2 m",
                half_empty="Write a distance, such as 2 m",
                group="zone",
            )
        )
    )
    far_mm: float = field(
        metadata=asks(
            distance_cell(
                "far",
                Field("far", "far"),
                "to",
                optional=True,
                empty=math.inf,
                usual="5 m",
                hint="∞ if empty",
                group="zone",
            )
        )
    )
    ev: float = field(
        metadata=asks(
            Joined(inputs=(LIGHT, METER_SHUTTER, METER_STOP, METER_ISO), take=_take_light, texts=_light_texts)
        )
    )
    iso: float = field(
        metadata=asks(
            Input(
                name="iso",
                field=Field("iso", "ISO"),
                label="ISO",
                mode="numeric",
                usual="100",
                empty=100.0,
                group="iso",
                hint="the film’s, or the lowest of the body",
                read=lambda text, _typed: check_iso(number(text, "ISO")),
            )
        )
    )
    most_iso: float | None = field(
        metadata=asks(
            Input(
                name="most_iso",
                field=Field("most_iso", "highest ISO"),
                label="Highest ISO you would take",
                mode="numeric",
                optional=True,
                group="iso",
                hint="empty on film: it fixes the ISO",
                read=lambda text, _typed: check_iso(number(text, "highest ISO")),
            )
        )
    )
    filter_stops: float = field(
        metadata=asks(
            number_input(
                "filter",
                Field("filter", "filter"),
                "Filter takes",
                unit="stops",
                low=0,
                high=20,
                empty=0.0,
                group="iso",
            )
        )
    )
    exponent: float | None = field(
        metadata=asks(exponent_asked("of the film’s data sheet; beyond one second", group="iso"))
    )
    speed: float = field(metadata=asks(Joined(inputs=(MOVES, SPEED), take=_take_speed, texts=lambda _speed: {})))
    angle_deg: float = field(metadata=asks(path_asked(90.0, group="moves")))
    held: str = field(metadata=asks(HELD))

    def __post_init__(self) -> None:
        check_limits(self)
        if self.most_iso is not None and self.most_iso < self.iso:
            raise OutOfRangeError(
                Field("most_iso", "highest ISO"), f"{self.most_iso:g}", f"that is below ISO {self.iso:g}",
                "Write a higher one, or leave it empty",
            )  # fmt: skip

    def circumstances(self, setup: Setup, steady: float) -> Circumstances:
        """Return what is asked of the light with a set-up; ``steady`` is how steady the own hand is, times."""
        most = self.iso if setup.body.is_film else self.most_iso or max(self.iso, USUAL_MOST_ISO)
        return Circumstances(
            ev=self.ev, iso=self.iso, most_iso=most, holding=HOLDING_BY_ID[self.held], filter_stops=self.filter_stops,
            speed=self.speed, angle_deg=self.angle_deg, steady=steady,
            exponent=self.exponent if setup.body.is_film else None,
        )  # fmt: skip


LightForm = record_form(LightAsked)
