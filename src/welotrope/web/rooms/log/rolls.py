"""Film rolls: what is on them, and the dates of their frames when they are known later."""

from __future__ import annotations

from dataclasses import dataclass

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.inputs import Reader
from welotrope.core.review.roll import Roll, read_time
from welotrope.core.units.distance import Unit
from welotrope.store.queries import kit, rolls
from welotrope.store.queries.rolls import StoredRoll
from welotrope.web.forms import RecordForm, TextForm, asks_for
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.rooms.log.frame import FrameLine, frame_lines, frame_lists


@asks_for(Roll)
class RollForm(RecordForm):
    """Fields of a roll as typed."""


class DatesForm(TextForm):
    """When its first and last frame were taken."""

    first: str = ""
    last: str = ""


@dataclass(frozen=True, kw_only=True)
class RollsPage:
    """Every roll, and the form of a new one."""

    rolls: tuple[StoredRoll, ...]
    form: RollForm
    errors: dict[str, str]
    bodies: tuple[str, ...]


@dataclass(frozen=True, kw_only=True)
class RollPage:
    """A roll with its frames in the order of their numbers."""

    stored: StoredRoll
    form: RollForm
    dates: DatesForm
    errors: dict[str, str]
    bodies: tuple[str, ...]
    unit: Unit
    lines: tuple[FrameLine, ...]
    undated: int


router = APIRouter()


@router.get("/log/rolls")
def show_rolls(context: CurrentContext) -> Response:
    """Show every roll."""
    return _rolls(context, RollForm(), {})


@router.post("/log/rolls")
def add_roll(context: CurrentContext) -> Response:
    """Begin a roll."""
    form = RollForm.read(context.typed)
    roll, errors = form.value({})
    if roll is None:
        return _rolls(context, form, errors)
    with context.undoable_transaction(f"Began roll {roll.name}"):
        id = rolls.save_roll(context.uow, roll)
    return context.back_to(f"/log/rolls/{id}")


@router.get("/log/rolls/{id}")
def show_roll(context: CurrentContext, id: int) -> Response:
    """Show a roll with its frames."""
    return _roll(context, id, RollForm.of(rolls.get_roll(context.uow, id).roll), DatesForm(), {})


@router.post("/log/rolls/{id}")
def update_roll(context: CurrentContext, id: int) -> Response:
    """Store a changed roll."""
    form = RollForm.read(context.typed)
    roll, errors = form.value({})
    if roll is None:
        return _roll(context, id, form, DatesForm(), errors)
    with context.undoable_transaction(f"Changed roll {roll.name}"):
        rolls.save_roll(context.uow, roll, id=id)
    return context.back_to(f"/log/rolls/{id}")


@router.post("/log/rolls/{id}/dates")
def date_roll(context: CurrentContext, id: int) -> Response:
    """Spread the frames of a roll over a time, in the order of their numbers."""
    stored, form, reader = rolls.get_roll(context.uow, id), DatesForm.read(context.typed), Reader()
    first = reader.take("first", lambda: read_time(form.first, "first frame"), None)
    last = reader.take("last", lambda: read_time(form.last, "last frame"), None)
    if first is not None and last is not None and last < first:
        reader.errors["last"] = (
            f"Last frame: read “{last:%Y-%m-%d %H:%M}”; that is before the first. Write a later time."
        )
    if first is None or last is None or reader.errors:
        return _roll(context, id, RollForm.of(stored.roll), form, reader.errors)
    with context.undoable_transaction(f"Dated the frames of roll {stored.roll.name}"):
        rolls.date_frames(context.uow, id, first, last)
    return context.back_to(f"/log/rolls/{id}")


@router.post("/log/rolls/{id}/delete")
def delete_roll(context: CurrentContext, id: int) -> Response:
    """Delete a roll, undoably; its frames stay."""
    name = rolls.get_roll(context.uow, id).roll.name
    with context.undoable_transaction(f"Deleted roll {name}"):
        rolls.delete_roll(context.uow, id)
    return context.back_to("/log/rolls")


def _bodies(context: RequestContext) -> tuple[str, ...]:
    return tuple(body.name for _, body in kit.list_bodies(context.uow) if body.is_film)


def _rolls(context: RequestContext, form: RollForm, errors: dict[str, str]) -> Response:
    page = RollsPage(rolls=tuple(rolls.list_rolls(context.uow)), form=form, errors=errors, bodies=_bodies(context))
    return context.page("log/rolls/list.html", page, status=422 if errors else 200)


def _roll(context: RequestContext, id: int, form: RollForm, dates: DatesForm, errors: dict[str, str]) -> Response:
    stored, frames = rolls.get_roll(context.uow, id), rolls.frames_on(context.uow, id)
    page = RollPage(
        stored=stored, form=form, dates=dates, errors=errors, bodies=_bodies(context), unit=context.preferences.unit,
        lines=frame_lines(frame_lists(context.uow, frames), frames, context.preferences.unit),
        undated=sum(one.undated for one in frames),
    )  # fmt: skip
    return context.page("log/rolls/page.html", page, status=422 if errors else 200)
