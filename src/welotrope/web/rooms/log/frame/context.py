"""What the pages of a frame show."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field

from welotrope.core.inputs import Input
from welotrope.core.kit.aids.registry import BODY_KINDS
from welotrope.core.picture.picture import Picture
from welotrope.core.plan.field_settings import Preset
from welotrope.core.review.evidence import RingMiss, ring_miss
from welotrope.core.review.frame import Frame
from welotrope.core.review.outcomes import Outcome, Tally, tally
from welotrope.core.review.roll import Roll
from welotrope.core.units.distance import Unit
from welotrope.core.units.exposure import stops_between
from welotrope.store.queries import kit, log, pictures, rolls
from welotrope.store.queries.kit import StoredSetup
from welotrope.store.unit_of_work import UnitOfWork
from welotrope.web.forms.record_form import narrowed
from welotrope.web.rooms.log.frame.form import FrameForm, outing_options
from welotrope.web.rooms.log.frame.words import FrameWords, frame_words
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
