"""/log/type: lines typed in with a live echo, stored together."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.errors import Field, UnreadableError, WelotropeError
from welotrope.core.inputs import (
    FormInput,
    Group,
    Input,
    check_limits,
    field_spec,
    read_record,
    tick_input,
    whole_input,
)
from welotrope.core.plan.field_settings import field_settings
from welotrope.core.plan.setting import ring_setting
from welotrope.core.review.frame import AID, NewFrame, Outing, frame_at
from welotrope.core.review.roll import Roll
from welotrope.core.review.shorthand import KnownSetup, PencilledFrame, ReadLine, read_lines
from welotrope.core.units.distance import Unit, format_distance, format_rough, format_span
from welotrope.core.units.exposure import format_shutter, format_stop
from welotrope.core.units.text import check_name, format_date
from welotrope.store.queries import log, rolls
from welotrope.store.queries.field import FieldKit, field_kit
from welotrope.store.queries.kit import StoredSetup
from welotrope.web.forms import RecordForm, key_of, record_form
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.rooms.log.frame import roll_options

_OUTING = Field("outing", "outing")


def _day(text: str) -> dt.date:
    try:
        return dt.date.fromisoformat(text.strip())
    except ValueError:
        raise UnreadableError("day", text, "that is not a date", "Write it like 2026-03-14") from None


def _time(text: str) -> dt.time:
    try:
        return dt.time.fromisoformat(text.strip().zfill(5))
    except ValueError:
        raise UnreadableError("begun", text, "that is not a time of day", "Write it like 14:30") from None


@dataclass(frozen=True, kw_only=True)
class LinesAsked:
    """What holds for all lines: the outing they go to, when it began, and how frames are numbered."""

    outing: str = field(
        metadata=field_spec(
            Input(
                name="outing", field=_OUTING, label="Outing", write=str,
                read=lambda text, _typed: check_name(text, _OUTING, limit=80),
            )
        )
    )  # fmt: skip
    day: dt.date = field(
        metadata=field_spec(
            Input(name="day", field=Field("day", "day"), label="Day", read=lambda text, _typed: _day(text), write=str)
        )
    )
    begun: dt.time = field(
        metadata=field_spec(
            Input(
                name="begun", field=Field("begun", "begun"), label="Begun at", usual="12:00", empty=dt.time(12),
                read=lambda text, _typed: _time(text),
                hint="a line without a time is one minute after the line before",
            )
        )
    )  # fmt: skip
    first: int = field(
        metadata=field_spec(
            whole_input("first", Field("first", "first number"), "First frame", 0, 9999, usual="1", empty=1)
        )
    )
    film: bool = field(metadata=field_spec(tick_input("film", "numbers are film frame numbers")))
    roll: str = field(
        metadata=field_spec(
            Input(
                name="roll", field=Field("roll", "roll"), label="Roll", optional=True, empty="", group=Group.ROLL,
                read=lambda text, _typed: text, write=str,
            )
        )
    )  # fmt: skip

    def __post_init__(self) -> None:
        check_limits(self)


LinesForm = record_form(LinesAsked)


@dataclass(frozen=True)
class Echo:
    """What a line was understood as, in words; or why not."""

    words: str = ""
    problem: str = ""


@dataclass(frozen=True, kw_only=True)
class TypingPage:
    """The lines as typed with their echo, what holds for all of them, and words to choose from."""

    form: RecordForm
    errors: dict[str, str]
    text: str
    echo: tuple[Echo, ...]
    good: int
    bad: int
    outings: tuple[str, ...]
    rolls: tuple[tuple[str, str], ...]
    lenses: tuple[tuple[str, str, tuple[str, ...]], ...]


@dataclass(frozen=True, kw_only=True)
class TypingData:
    """What typed lines may name: set-ups with the settings of their lenses, outings and rolls."""

    kit: FieldKit
    in_hand: StoredSetup | None
    outings: Sequence[Outing]
    rolls: Mapping[int, Roll]


def load_typing(context: RequestContext) -> TypingData:
    """Read the kit, the outings and the rolls."""
    return TypingData(
        kit=field_kit(context.uow, 0), in_hand=context.find_selected_setup(), outings=log.list_outings(context.uow),
        rolls=rolls.roll_names(context.uow),
    )  # fmt: skip


def known_kit(data: TypingData) -> list[KnownSetup]:
    """Return every set-up, a zoom at every marked focal length, the one in hand first."""
    kit, hand = data.kit, data.in_hand
    found = [
        KnownSetup(id=stored.id, setup=setup, settings=field_settings(setup, kit.presets.get(stored.lens_id, ())))
        for stored in sorted(kit.setups, key=lambda one: hand is None or one.id != hand.id)
        for setup in stored.setup.at_every_mark
    ]
    body = hand.setup.body.name if hand else ""
    return sorted(found, key=lambda one: (hand is None or one.id != hand.id, one.setup.body.name != body))


def read_typed(kit: list[KnownSetup], text: str, first: int, bare: Unit) -> tuple[list[ReadLine], str]:
    """Read the lines; with a sentence where they cannot be read at all."""
    if not kit:
        return [], "There is no set-up yet. Enter one in Kit first."
    try:
        return read_lines(text, kit, first, bare), ""
    except WelotropeError as error:
        return [], error.sentence


def echo_of(lines: list[ReadLine], unit: Unit) -> tuple[Echo, ...]:
    """Say each line back."""
    return tuple(
        Echo(problem=line.problem) if line.problem else Echo(_words(line.frame, unit) if line.frame else "")
        for line in lines
    )


def _words(frame: PencilledFrame, unit: Unit) -> str:
    setup = frame.known.setup
    at = ring_setting(setup, frame.angle_deg, frame.stop)
    span = format_span(at.near_mm, at.far_mm, unit)
    zoom = f" at {setup.marked_mm:g} mm" if setup.zoom_marks else ""
    parts = [
        f"{frame.number}  {setup.lens.name}{zoom} {format_stop(frame.stop)}",
        f"{frame.setting_name} " * bool(frame.setting_name) + format_distance(at.focus_mm, unit),
        f"{span.near} to {span.far}", dict(AID.options)[frame.aid] if frame.aid else "",
        frame.outcome.value if frame.outcome else "",
        f"by {format_rough(frame.miss_mm, unit)}" if frame.miss_mm is not None else "",
        f"{frame.instead} sharp instead" if frame.instead else "",
        format_shutter(frame.shutter_s) if frame.shutter_s else "", f"ISO {frame.iso}" if frame.iso else "",
        f"{frame.time:%H:%M}" if frame.time else "", frame.note,
    ]  # fmt: skip
    return ", ".join(part for part in parts if part)


def frames_of(lines: list[ReadLine], asked: LinesAsked) -> Iterator[tuple[NewFrame, PencilledFrame]]:
    """Yield the frames to store: a line without a time is one minute after the line before."""
    taken = dt.datetime.combine(asked.day, asked.begun)
    for line in lines:
        if line.frame is None:
            continue
        said = line.frame
        taken = dt.datetime.combine(asked.day, said.time) if said.time else taken
        frame = frame_at(said.known.id, said.known.setup, said.angle_deg, said.stop, taken)
        named = next((one for one in said.known.settings if one.name == said.setting_name and one.preset), None)
        yield replace(
            frame, preset_name=named.name if named else "", shutter_s=said.shutter_s,
            iso=said.iso, note=said.note, aid=said.aid,
            instead=said.instead, miss_mm=said.miss_mm, roll_id=key_of(asked.roll),
            film_frame=said.number if asked.film else "",
        ), said  # fmt: skip
        taken += dt.timedelta(minutes=1)


router = APIRouter()


@router.get("/log/type")
def show(context: CurrentContext) -> Response:
    """Offer an empty sheet for the newest outing."""
    newest = next(iter(log.list_outings(context.uow)), None)
    today = context.now().date()
    form = LinesForm.model_validate(
        {
            "outing": newest.name if newest else f"Outing of {format_date(today)}",
            "day": str(newest.day if newest else today),
        }
    )
    return context.page("log/typing/page.html", _page(context, form, {}, ""))


@router.post("/log/type/echo")
def echo(context: CurrentContext) -> Response:
    """Say the lines back as they are typed; nothing is stored."""
    form = LinesForm.read(context.typed)
    return context.fragment("log/typing/echo.html", _page(context, form, {}, str(context.typed.get("text", ""))))


@router.post("/log/type")
def store(context: CurrentContext) -> Response:
    """Store the lines when each of them is understood; undoable as one change."""
    form, text = LinesForm.read(context.typed), str(context.typed.get("text", ""))
    asked, errors = read_record(LinesAsked, FormInput(texts=form.model_dump(), bare=context.numbers_in))
    page = _page(context, form, errors, text)
    if asked is None or page.bad or not page.good or page.errors or context.typed.get("intent") == "show":
        status = 422 if asked is None or page.bad or page.errors else 200
        return context.page("log/typing/page.html", page, status=status)
    lines, _ = read_typed(known_kit(load_typing(context)), text, asked.first, context.numbers_in)
    with context.undoable_transaction(f"Typed in {page.good} frame{'' if page.good == 1 else 's'}"):
        outing = _outing(context, asked)
        for frame, said in frames_of(lines, asked):
            log.add_frame(context.uow, outing, frame, outcome=said.outcome)
    return context.back_to(f"/log?outing={outing}")


def _outing(context: RequestContext, asked: LinesAsked) -> int:
    """Return the outing of a name and day, made when there is none."""
    found = next(
        (one.id for one in log.list_outings(context.uow) if (one.name, one.day) == (asked.outing, asked.day)), None
    )
    return log.add_outing(context.uow, asked.outing, asked.day) if found is None else found


def _page(context: RequestContext, form: Any, errors: dict[str, str], text: str) -> TypingPage:
    bare, unit = context.numbers_in, context.preferences.unit
    return typing_page(load_typing(context), form, errors, text, bare=bare, unit=unit)


def typing_page(
    data: TypingData, form: Any, errors: dict[str, str], text: str, *, bare: Unit, unit: Unit
) -> TypingPage:
    """Read the lines and say each back; ``bare`` is the unit of a number without one."""
    first = int(form.first) if form.first.isascii() and form.first.isdigit() and len(form.first) < 5 else 1
    kit = known_kit(data)
    lines, problem = read_typed(kit, text, first, bare)
    echo = echo_of(lines, unit)
    lenses = tuple(
        (f"{one.setup.marked_mm:g}", one.setup.name, tuple(setting.name for setting in one.settings)) for one in kit
    )
    return TypingPage(
        form=form, errors=errors | ({"text": problem} if problem and text.strip() else {}), text=text, echo=echo,
        good=sum(bool(one.words) for one in echo), bad=sum(bool(one.problem) for one in echo),
        outings=tuple(dict.fromkeys(one.name for one in data.outings))[:20], lenses=lenses,
        rolls=roll_options(data.rolls),
    )  # fmt: skip
