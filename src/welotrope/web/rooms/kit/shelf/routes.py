"""The Kit room: what is in hand, and everything owned."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.store.queries import kit
from welotrope.web.request.context import CurrentContext
from welotrope.web.rooms.kit.shelf.context import kit_page

router = APIRouter()


@router.get("/kit")
def show_kit(context: CurrentContext) -> Response:
    """Open on the set-up in hand; an empty kit leads to the start page."""
    page = kit_page(context)
    if not (page.bodies or page.lenses or page.changes):
        return context.go("/start")
    return context.page("kit/shelf/page.html", page)


@router.post("/kit/broken/{table}/{id}/delete")
def delete_broken(context: CurrentContext, table: str, id: int) -> Response:
    """Delete a record that cannot be read, undoably."""
    with context.undoable_transaction("Deleted a record that could not be read"):
        kit.delete_broken(context.uow, table, id)
    return context.back_to("/kit")
