"""/practice/hand: the hand of who is practising, who that is, and what was changed on the kit."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Form
from starlette.responses import Response

from welotrope.store.queries import drills, kit_changes
from welotrope.web.rooms.practice.hand.context import hand_page
from welotrope.web.rooms.practice.hand.form import ChangeForm, person_of
from welotrope.web.shell.desk import AtDesk, Desk
from welotrope.web.shell.limits import local_path
from welotrope.web.shell.preferences import remember

router = APIRouter()


@router.get("/practice/hand")
def hand(desk: AtDesk) -> Response:
    """Show the hand."""
    return _page(desk, ChangeForm(), {})


@router.post("/practice/person")
def practise_as(desk: AtDesk, person: Annotated[str, Form()] = "") -> Response:
    """Say who is practising on this device from now on."""
    response = desk.go("/practice/hand")
    remember(response, "person", person_of(person))
    return response


@router.post("/practice/sessions/{session}/person")
def give_session(desk: AtDesk, session: str, person: Annotated[str, Form()] = "") -> Response:
    """Say that all trials of a session were somebody else's, undoably."""
    name = person_of(person)
    with desk.change(f"Gave a session to {name or 'me'}"):
        drills.give_to(desk.book, session[:60], name)
    return desk.back_to("/practice/hand")


@router.post("/practice/changes")
def note_change(desk: AtDesk, back: Annotated[str, Form()] = "") -> Response:
    """Note a change of the kit, from which on it is watched."""
    form = ChangeForm.read(desk.typed)
    change, errors = form.value(desk.in_hand().id, desk.now())
    if change is None:
        return _page(desk, form, errors, 422)
    with desk.change("Noted a change of the kit"):
        kit_changes.add_change(desk.book, change)
    return desk.back_to(local_path(back, "/practice/hand"))


@router.post("/practice/changes/{id}/delete")
def delete_change(desk: AtDesk, id: int) -> Response:
    """Forget a change, undoably."""
    with desk.change("Deleted a change of the kit"):
        kit_changes.delete_change(desk.book, id)
    return desk.back_to("/practice/hand")


def _page(desk: Desk, form: ChangeForm, errors: dict[str, str], status: int = 200) -> Response:
    stored, person, unit, personal = desk.in_hand(), desk.preferences.person, desk.preferences.unit, desk.personal()
    what = ("hand page", desk.held_as, desk.now().date(), person, unit, personal.average)
    page = desk.kept(
        what,
        lambda: hand_page(
            stored, personal, desk.told(), kit_changes.changes_of(desk.book, stored.id), drills.persons(desk.book),
            person, unit, form, errors,
        ),
    )  # fmt: skip
    return desk.page("practice/hand/page.html", page, status=status)
