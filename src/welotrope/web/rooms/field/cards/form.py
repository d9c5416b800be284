"""What is asked of the cards of an outing."""

from __future__ import annotations

from dataclasses import dataclass, field

from welotrope.core.errors import ConflictError, Field
from welotrope.core.exposure.light import check_iso
from welotrope.core.exposure.motion import MOVER_BY_ID, MOVERS, Mover
from welotrope.core.inputs import (
    Ask,
    Group,
    Input,
    check_limits,
    choice_input,
    field_spec,
    number_input,
    tick_input,
    whole_input,
)
from welotrope.core.kit.sheet import School
from welotrope.core.ring.survey import distance_cell
from welotrope.core.units.distance import check_ends
from welotrope.core.units.exposure import format_stop, parse_stop
from welotrope.interchange.print.drawing import Paper
from welotrope.web.forms.record_form import record_form

PARTS = (
    ("settings", "zones and presets"), ("strip", "settings on a strip at true size"),
    ("light", "exposure table"),
    ("moving", "stations for a moving subject"), ("close", "close-up table"), ("stack", "focus stack to tick off"),
    ("night", "steps of a night"), ("sheet", "set-up sheet to tick"), ("log", "blank log lines"),
)  # fmt: skip
USUAL_PARTS = ("settings", "strip", "light", "sheet", "log")
_MOVING = tuple(one for one in MOVERS if one.speed > 0.3)
_STACK = Field("stack_near", "stack from")


@dataclass(frozen=True, kw_only=True)
class CardsAsked:
    """Cards: which, on which paper, and what the planned ones are planned for; distances in mm from the film plane."""

    parts: frozenset[str] = field(
        metadata=field_spec(
            Input(
                name="part", field=Field("part", "what to print"), label="Cards", ask=Ask.MANY, options=PARTS,
                usual=list(USUAL_PARTS), read=lambda chosen, _typed: frozenset(chosen) & {key for key, _ in PARTS},
                write=sorted,
            )
        )
    )  # fmt: skip
    paper: Paper = field(
        metadata=field_spec(choice_input("paper", "Paper", Paper, Paper.A4, ask=Ask.PICK, group=Group.PAPER))
    )
    large: bool = field(metadata=field_spec(tick_input("large", "large print", group=Group.PAPER)))
    iso: float = field(
        metadata=field_spec(
            number_input("iso", Field("iso", "ISO"), "ISO", optional=False, usual="400", empty=400.0, group=Group.LIGHT,
                         valid=check_iso)
        )
    )  # fmt: skip
    stop: float = field(
        metadata=field_spec(
            Input(
                name="stop", field=Field("stop", "stop"), label="f-stop for stations and stack", usual="f/8", empty=8.0,
                read=lambda text, _typed: parse_stop(text), write=format_stop, group=Group.MOVING,
            )
        )
    )  # fmt: skip
    moves: Mover = field(
        metadata=field_spec(
            Input(
                name="moves", field=Field("moves", "what comes"), label="Subject", ask=Ask.CHOICE, usual="walking",
                options=tuple((one.id, one.name) for one in _MOVING), group=Group.MOVING, write=lambda one: one.id,
                read=lambda text, _typed: MOVER_BY_ID.get(text, MOVER_BY_ID["walking"]),
            )
        )
    )  # fmt: skip
    trap_mm: float = field(
        metadata=field_spec(
            distance_cell("trap", Field("trap", "first station"), "First station at", usual="6 m", group=Group.MOVING,
                          half_empty="Write a distance, such as 6 m")
        )
    )  # fmt: skip
    near_mm: float | None = field(
        metadata=field_spec(
            distance_cell(
                "stack_near", _STACK, "Stack from", optional=True, group=Group.STACK, example="0.5 m", also=("near",)
            )
        )
    )
    far_mm: float | None = field(
        metadata=field_spec(
            distance_cell("stack_far", Field("stack_far", "stack to"), "to", optional=True, group=Group.STACK,
                          example="0.6 m")
        )
    )  # fmt: skip
    overlap: float = field(
        metadata=field_spec(
            number_input("overlap", Field("overlap", "overlap"), "Overlap", unit="%", low=0, high=90, usual="20",
                         empty=20.0, group=Group.STACK)
        )
    )  # fmt: skip
    school: School = field(
        metadata=field_spec(choice_input("school", "Sheet for", School, School.SET, ask=Ask.PICK, group=Group.SHEET))
    )
    lines: int = field(
        metadata=field_spec(whole_input("lines", Field("lines", "log lines"), "Log lines", 1, 200, usual="23", empty=23,
                                  group=Group.LOG))
    )  # fmt: skip
    first: int = field(
        metadata=field_spec(whole_input("first", Field("first", "first number"), "First number", 1, 9999, usual="1",
        empty=1,
                                  group=Group.LOG))
    )  # fmt: skip

    def __post_init__(self) -> None:
        check_limits(self)
        if "stack" in self.parts:
            if self.near_mm is None or self.far_mm is None:
                raise ConflictError(_STACK, "", "a stack goes from somewhere to somewhere", "Give both distances")
            check_ends(self.near_mm, self.far_mm)


CardsForm = record_form(CardsAsked)
