"""Film rolls: what is on them, and the dates of their frames when they are known later."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.inputs import Reader
from welotrope.core.review.roll import read_time
from welotrope.store.queries import kit, rolls
from welotrope.web.rooms.log.frame.context import frame_lines
from welotrope.web.rooms.log.rolls.context import DatesForm, RollForm, RollPage, RollsPage
from welotrope.web.shell.desk import AtDesk, Desk

router = APIRouter()


@router.get("/log/rolls")
def show_rolls(desk: AtDesk) -> Response:
    """Show every roll."""
    return _rolls(desk, RollForm(), {})


@router.post("/log/rolls")
def add_roll(desk: AtDesk) -> Response:
    """Begin a roll."""
    form = RollForm.read(desk.typed)
    roll, errors = form.value({})
    if roll is None:
        return _rolls(desk, form, errors)
    with desk.change(f"Began roll {roll.name}"):
        id = rolls.save_roll(desk.book, roll)
    return desk.back_to(f"/log/rolls/{id}")


@router.get("/log/rolls/{id}")
def show_roll(desk: AtDesk, id: int) -> Response:
    """Show a roll with its frames."""
    return _roll(desk, id, RollForm.of(rolls.get_roll(desk.book, id).roll), DatesForm(), {})


@router.post("/log/rolls/{id}")
def update_roll(desk: AtDesk, id: int) -> Response:
    """Store a changed roll."""
    form = RollForm.read(desk.typed)
    roll, errors = form.value({})
    if roll is None:
        return _roll(desk, id, form, DatesForm(), errors)
    with desk.change(f"Changed roll {roll.name}"):
        rolls.save_roll(desk.book, roll, id)
    return desk.back_to(f"/log/rolls/{id}")


@router.post("/log/rolls/{id}/dates")
def date_roll(desk: AtDesk, id: int) -> Response:
    """Spread the frames of a roll over a time, in the order of their numbers."""
    stored, form, reader = rolls.get_roll(desk.book, id), DatesForm.read(desk.typed), Reader()
    first = reader.take("first", lambda: read_time(form.first, "first frame"), None)
    last = reader.take("last", lambda: read_time(form.last, "last frame"), None)
    if first is not None and last is not None and last < first:
        reader.errors["last"] = (
            f"Last frame: read “{last:%Y-%m-%d %H:%M}”; that is before the first. Write a later time."
        )
    if first is None or last is None or reader.errors:
        return _roll(desk, id, RollForm.of(stored.roll), form, reader.errors)
    with desk.change(f"Dated the frames of roll {stored.roll.name}"):
        rolls.date_frames(desk.book, id, first, last)
    return desk.back_to(f"/log/rolls/{id}")


@router.post("/log/rolls/{id}/delete")
def delete_roll(desk: AtDesk, id: int) -> Response:
    """Delete a roll, undoably; its frames stay."""
    name = rolls.get_roll(desk.book, id).roll.name
    with desk.change(f"Deleted roll {name}"):
        rolls.delete_roll(desk.book, id)
    return desk.back_to("/log/rolls")


def _bodies(desk: Desk) -> tuple[str, ...]:
    return tuple(body.name for _, body in kit.list_bodies(desk.book) if body.is_film)


def _rolls(desk: Desk, form: RollForm, errors: dict[str, str]) -> Response:
    page = RollsPage(rolls=tuple(rolls.list_rolls(desk.book)), form=form, errors=errors, bodies=_bodies(desk))
    return desk.page("log/rolls/list.html", page, status=422 if errors else 200)


def _roll(desk: Desk, id: int, form: RollForm, dates: DatesForm, errors: dict[str, str]) -> Response:
    stored, frames = rolls.get_roll(desk.book, id), rolls.frames_on(desk.book, id)
    page = RollPage(
        stored=stored, form=form, dates=dates, errors=errors, bodies=_bodies(desk), unit=desk.preferences.unit,
        lines=frame_lines(desk.book, frames, desk.preferences.unit), undated=sum(one.undated for one in frames),
    )  # fmt: skip
    return desk.page("log/rolls/page.html", page, status=422 if errors else 200)
