"""Frames: logging, changing and marking one."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Annotated

from fastapi import APIRouter, Form
from starlette.responses import Response

from welotrope.core.errors import UnreadableError
from welotrope.core.inputs import Input
from welotrope.core.kit.aids.registry import BODY_KINDS
from welotrope.core.picture.picture import Picture
from welotrope.core.plan.field_settings import Preset
from welotrope.core.review.evidence import RingMiss, ring_miss
from welotrope.core.review.frame import Frame, marked
from welotrope.core.review.outcomes import Outcome, Tally, tally
from welotrope.core.review.roll import Roll
from welotrope.core.units.distance import Unit, format_distance
from welotrope.core.units.exposure import stops_between
from welotrope.store.queries import kit, log, pictures, rolls
from welotrope.store.queries.kit import StoredSetup
from welotrope.store.unit_of_work import UnitOfWork
from welotrope.web.forms import key_of, narrowed
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.request.limits import local_path
from welotrope.web.rooms.log.frame_form import FrameForm, outing_options
from welotrope.web.rooms.log.frame_words import FrameWords, frame_words, taken_with
from welotrope.web.state.ring_state import RingState

Options = tuple[tuple[str, str], ...]


@dataclass(frozen=True, kw_only=True)
class FrameLine:
    """A frame as it stands in the log: itself, its words, and the thumbnail of its picture ('' for none)."""

    frame: Frame
    words: FrameWords
    thumb: str
    picture_id: int | None


@dataclass(frozen=True)
class FrameRowView:
    """One frame of the list with the tally beside it, for a fragment."""

    line: FrameLine
    outcomes: tuple[Outcome, ...]
    tally: Tally
    unit: Unit


@dataclass(frozen=True, kw_only=True)
class NewFramePage:
    """The form that logs a frame from where the ring stands."""

    form: FrameForm
    stored: StoredSetup
    outings: Options
    rolls: Options
    errors: dict[str, str] = field(default_factory=dict)
    back: str = "/scale"

    @property
    def meant(self) -> list[Input]:
        """What is asked of what was meant."""
        return _meant(self.form, self.stored)


@dataclass(frozen=True, kw_only=True)
class FramePage:
    """The form that changes a logged frame; its setting can be worked out again while its set-up is there."""

    frame: Frame
    words: FrameWords
    form: FrameForm
    errors: dict[str, str]
    unit: Unit
    gone: bool
    setups: Options
    rolls: Options
    outings: Options
    outcomes: tuple[Outcome, ...]
    miss: RingMiss | None
    stored: StoredSetup | None

    @property
    def meant(self) -> list[Input]:
        """What is asked of what was meant."""
        return _meant(self.form, self.stored)


def _meant(form: FrameForm, stored: StoredSetup | None) -> list[Input]:
    """Return the inputs of what was meant, with the aids that the camera can have and the one noted."""
    inputs: list[Input] = form.inputs("meant")
    if stored is None:
        return inputs
    aids = {kind.tag for kind in BODY_KINDS if stored.setup.body.can_have(kind.tag)}
    return [narrowed(one, {"aid": {*aids, "", "scale", "eye", form.aid}}) for one in inputs]


@dataclass(frozen=True)
class FrameLists:
    """What frames are named and shown by: rolls by key, and the first picture of each frame."""

    rolls: Mapping[int, Roll]
    pictures: Mapping[int, Picture]


def frame_lists(uow: UnitOfWork, frames: Sequence[Frame]) -> FrameLists:
    """Read what these frames are named and shown by."""
    return FrameLists(rolls.roll_names(uow), pictures.first_of_frames(uow, [frame.id for frame in frames]))


def frame_lines(lists: FrameLists, frames: Sequence[Frame], unit: Unit) -> tuple[FrameLine, ...]:
    """Return frames as they stand in the log."""
    named = {id: roll.name for id, roll in lists.rolls.items()}
    shown = lists.pictures
    return tuple(
        FrameLine(
            frame=frame, words=frame_words(frame, unit, roll=named.get(frame.roll_id or 0, "")),
            thumb=shown[frame.id].thumb if frame.id in shown else "",
            picture_id=shown[frame.id].id if frame.id in shown else None,
        )
        for frame in frames
    )  # fmt: skip


def frame_row(uow: UnitOfWork, id: int, unit: Unit) -> FrameRowView:
    """Gather one frame's row."""
    frame = log.get_frame(uow, id)
    (line,) = frame_lines(frame_lists(uow, [frame]), [frame], unit)
    return FrameRowView(line, tuple(Outcome), tally(log.outcomes_of(uow, frame.outing_id)), unit)


def roll_options(named: Mapping[int, Roll]) -> Options:
    """Return rolls to choose from: key and words."""
    return tuple((str(id), roll.describe()) for id, roll in named.items())


def setup_options(setups: Sequence[StoredSetup]) -> Options:
    """Return set-ups to choose from: key and words."""
    return tuple((str(one.id), one.setup.name) for one in setups)


@dataclass(frozen=True, kw_only=True)
class FrameChoices:
    """What the form of a frame offers: set-ups, rolls and outings."""

    setups: Options
    rolls: Options
    outings: Options


def load_choices(uow: UnitOfWork) -> FrameChoices:
    """Read what the form of a frame offers."""
    return FrameChoices(
        setups=setup_options(kit.list_setups(uow)), rolls=roll_options(rolls.roll_names(uow)),
        outings=outing_options(log.list_outings(uow)),
    )  # fmt: skip


def frame_page(
    choices: FrameChoices, frame: Frame, form: FrameForm, errors: dict[str, str], unit: Unit,
    stored: StoredSetup | None,
) -> FramePage:  # fmt: skip
    """Return the page of a frame; ``stored`` is its set-up, None when it is gone or was never known."""
    return FramePage(
        frame=frame, words=frame_words(frame, unit), form=form, errors=errors, unit=unit,
        gone=stored is None and bool(frame.lens_name), setups=choices.setups, rolls=choices.rolls,
        outings=choices.outings, outcomes=tuple(Outcome),
        miss=None if stored is None else ring_miss(stored.setup, frame), stored=stored,
    )  # fmt: skip


def preset_at(state: RingState, saved: Iterable[Preset]) -> str:
    """Return the preset the ring stands on, to a hundredth of its distance, or ''.

    At another stop it is credited with what was changed: “quay, opened to 5.6”.
    """
    near = [
        preset for preset in saved
        if preset.distance_mm == state.distance_mm or abs(preset.distance_mm / state.distance_mm - 1) < 0.01
    ]  # fmt: skip
    if not near:
        return ""
    preset = min(near, key=lambda preset: abs(stops_between(preset.stop, state.stop)))
    if preset.stop == state.stop:
        return preset.name
    way = "opened" if state.stop < preset.stop else "stopped down"
    return f"{preset.name}, {way} to {state.stop:g}"


router = APIRouter()


@router.get("/log/new")
def new_frame(context: CurrentContext) -> Response:
    """Offer to log a frame from where the ring stands."""
    state = context.ring_state()
    stands = "at" in context.request.query_params  # elsewhere nobody has set a distance that could be meant
    form = FrameForm.next_of(
        log.last_frame(context.uow, context.selected_setup().id),
        at=format_distance(state.distance_mm, context.numbers_in) if stands else "",
        exact=repr(float(state.distance_mm)) if stands else "",
        stop=f"{state.stop:g}", preset=preset_at(state, context.presets()) if stands else "",
        taken_at=context.now().isoformat(timespec="minutes"),
    )  # fmt: skip
    return _frame_form(context, form, {}, f"/scale?{state.query}")


@router.post("/log/frames")
def add_frame(context: CurrentContext) -> Response:
    """Log a frame."""
    stored = context.selected_setup()
    data = context.typed
    form = FrameForm.read(data)
    frame, errors = form.frame(stored, context.now(), context.numbers_in)
    back = str(data.get("back", "/log"))
    if frame is None:
        return _frame_form(context, form, errors, back)
    with context.undoable_transaction(f"Logged {frame.lens_name} at {form.at}"):
        chosen = key_of(form.outing)
        outing = log.outing_for(context.uow, frame.taken_at.date()) if chosen is None else chosen
        log.add_frame(context.uow, outing, frame)
    return context.back_to(local_path(back, otherwise="/log"))


def _frame_form(context: RequestContext, form: FrameForm, errors: dict[str, str], back: str) -> Response:
    stored = context.selected_setup()
    page = NewFramePage(
        form=form, stored=stored, outings=outing_options(log.list_outings(context.uow)[:20]),
        rolls=roll_options(rolls.roll_names(context.uow)), errors=errors, back=back,
    )  # fmt: skip
    return context.page("log/frame/new.html", page, status=422 if errors else 200)


@router.post("/log/frames/{id}/mark")
def mark_frame(context: CurrentContext, id: int, *, outcome: Annotated[str, Form()] = "") -> Response:
    """Mark what a frame showed; an empty outcome takes the mark off."""
    if outcome and outcome not in set(Outcome):
        raise UnreadableError("result", outcome, "that is not a result", f"Choose one of {', '.join(Outcome)}")
    frame = log.get_frame(context.uow, id)
    with context.undoable_transaction(f"Marked a frame {outcome or 'as not checked'}"):
        log.change_frame(context.uow, marked(frame, Outcome(outcome) if outcome else None, context.now()))
    if context.wants_fragment:
        return context.fragment("log/frame/marked.html", frame_row(context.uow, id, context.preferences.unit))
    return context.back_to(f"/log?outing={frame.outing_id}")


@router.get("/log/frames/{id}")
def edit_frame(context: CurrentContext, id: int) -> Response:
    """Offer a frame for change."""
    frame = log.get_frame(context.uow, id)
    return _edit_form(context, frame, FrameForm.of_frame(frame, context.numbers_in), {})


@router.post("/log/frames/{id}")
def update_frame(context: CurrentContext, id: int) -> Response:
    """Store a changed frame."""
    frame = log.get_frame(context.uow, id)
    form = FrameForm.read(context.typed)
    chosen = key_of(form.setup)
    another = chosen is not None and chosen != frame.setup_id
    stored = kit.find_setup(context.uow, chosen or 0) if another else taken_with(context.uow, frame)
    changed, errors = form.change(frame, stored, context.numbers_in)
    if changed is None:
        return _edit_form(context, frame, form, errors)
    if changed.outcome is not frame.outcome and changed.taken_at == frame.taken_at:
        changed = marked(replace(changed, outcome=frame.outcome), changed.outcome, context.now())
    with context.undoable_transaction("Changed a frame"):
        log.change_frame(context.uow, changed)
    return context.back_to(f"/log?outing={changed.outing_id}")


def _edit_form(context: RequestContext, frame: Frame, form: FrameForm, errors: dict[str, str]) -> Response:
    stored = taken_with(context.uow, frame)
    page = frame_page(load_choices(context.uow), frame, form, errors, context.preferences.unit, stored)
    return context.page("log/frame/page.html", page, status=422 if errors else 200)


@router.post("/log/frames/{id}/delete")
def delete_frame(context: CurrentContext, id: int) -> Response:
    """Delete a frame, undoably."""
    frame = log.get_frame(context.uow, id)
    with context.undoable_transaction("Deleted a frame"):
        log.delete_frame(context.uow, id)
    return context.back_to(f"/log?outing={frame.outing_id}")
