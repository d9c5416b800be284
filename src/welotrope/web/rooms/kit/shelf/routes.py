"""The Kit room: what is in hand, and everything owned."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.store.queries import kit
from welotrope.web.rooms.kit.shelf.context import kit_page
from welotrope.web.shell.desk import AtDesk

router = APIRouter()


@router.get("/kit")
def show_kit(desk: AtDesk) -> Response:
    """Open on the set-up in hand; an empty kit leads to the start page."""
    page = kit_page(desk)
    if not (page.bodies or page.lenses or page.changes):
        return desk.go("/start")
    return desk.page("kit/shelf/page.html", page)


@router.post("/kit/broken/{table}/{id}/delete")
def delete_broken(desk: AtDesk, table: str, id: int) -> Response:
    """Delete a record that cannot be read, undoably."""
    with desk.change("Deleted a record that could not be read"):
        kit.delete_broken(desk.book, table, id)
    return desk.back_to("/kit")
