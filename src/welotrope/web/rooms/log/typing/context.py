"""What the page shows where lines are typed in."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator
from dataclasses import dataclass, replace

from welotrope.core.errors import WelotropeError
from welotrope.core.plan.field_settings import field_settings
from welotrope.core.plan.setting import ring_setting
from welotrope.core.review.frame import AID, NewFrame, frame_at
from welotrope.core.review.shorthand import KnownSetup, PencilledFrame, ReadLine, read_lines
from welotrope.core.units.distance import format_distance, format_rough, format_span
from welotrope.core.units.exposure import format_shutter, format_stop
from welotrope.store.queries import field
from welotrope.web.forms.record_form import RecordForm
from welotrope.web.forms.text_form import key_of
from welotrope.web.request.context import RequestContext
from welotrope.web.rooms.log.typing.form import LinesAsked


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


def known_kit(context: RequestContext) -> list[KnownSetup]:
    """Return every set-up, a zoom at every marked focal length, the one in hand first."""
    kit = field.field_kit(context.uow, 0)
    hand = context.find_selected_setup()
    found = [
        KnownSetup(id=stored.id, setup=setup, settings=field_settings(setup, kit.presets.get(stored.lens_id, ())))
        for stored in sorted(kit.setups, key=lambda one: hand is None or one.id != hand.id)
        for setup in stored.setup.at_every_mark
    ]
    body = hand.setup.body.name if hand else ""
    return sorted(found, key=lambda one: (hand is None or one.id != hand.id, one.setup.body.name != body))


def read_typed(context: RequestContext, kit: list[KnownSetup], text: str, first: int) -> tuple[list[ReadLine], str]:
    """Read the lines; with a sentence where they cannot be read at all."""
    if not kit:
        return [], "There is no set-up yet. Enter one in Kit first."
    try:
        return read_lines(text, kit, first, context.numbers_in), ""
    except WelotropeError as error:
        return [], error.sentence


def echo_of(context: RequestContext, lines: list[ReadLine]) -> tuple[Echo, ...]:
    """Say each line back."""
    return tuple(
        Echo(problem=line.problem) if line.problem else Echo(_words(context, line.frame) if line.frame else "")
        for line in lines
    )


def _words(context: RequestContext, frame: PencilledFrame) -> str:
    unit, setup = context.preferences.unit, frame.known.setup
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
