"""The result of a round, with the picture it took."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.exceptions import HTTPException
from starlette.responses import Response

from welotrope.store.queries import practice
from welotrope.web.request.context import CurrentContext
from welotrope.web.rooms.practice.round.frames import jpeg
from welotrope.web.rooms.practice.trial.context import trial_page

router = APIRouter()


@router.get("/practice/trials/{id}")
def result(context: CurrentContext, id: int) -> Response:
    """Show the result of a round."""
    return context.page(
        "practice/trial/page.html",
        trial_page(practice.get_trial(context.uow, id), context.preferences.unit),
    )


@router.get("/practice/photos/{key}.jpg")
def photo(context: CurrentContext, key: str, *, whole: bool = False) -> Response:
    """Return the picture a round took, by the round's key: at full size round the subject, or whole."""
    from welotrope.core.finder.photograph import photograph
    from welotrope.interchange.scene_files import rendering_called

    found = practice.trial_of_round(context.uow, key[:80])
    if found is None:
        raise HTTPException(404)
    taken = photograph(found.trial, rendering_called, whole=whole)
    return Response(jpeg(taken), media_type="image/jpeg", headers={"cache-control": "max-age=3600"})


@router.post("/practice/trials/{id}/delete")
def delete(context: CurrentContext, id: int) -> Response:
    """Delete a trial, undoably."""
    with context.undoable_transaction("Deleted a round"):
        practice.delete_trial(context.uow, id)
    return context.back_to("/practice")
