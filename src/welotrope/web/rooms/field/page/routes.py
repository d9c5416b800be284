"""/field: the page one takes along."""

from __future__ import annotations

from dataclasses import dataclass

from fastapi import APIRouter
from starlette.responses import FileResponse, Response

from welotrope.core.json_values import JsonObject
from welotrope.web.request.context import CurrentContext
from welotrope.web.request.templating import WEB
from welotrope.web.rooms.field.page.book import book_json, field_book, made_at
from welotrope.web.rooms.field.page.bundle import script_text, script_version

router = APIRouter()
CACHE = "public, max-age=31536000, immutable"


@dataclass(frozen=True, kw_only=True)
class FieldPage:
    """The page: its book as JSON, safe inside a script element, and where its script is."""

    book: str
    script: str


@router.get("/field")
def show_field(context: CurrentContext) -> Response:
    """Show the field page of all set-ups, the one in hand opened."""
    now, held, unit = context.now(), context.selected_setup(), context.preferences.unit
    book: JsonObject = context.cached(
        ("field", context.selection.key, now.date(), unit), lambda: field_book(context.uow, now, held, unit)
    )
    page = FieldPage(book=book_json({**book, "made": made_at(now)}), script=f"/field/script.js?v={script_version()}")
    return context.page("field/page/page.html", page)


@router.get("/field/script.js")
async def script() -> Response:
    """Return the page's script in one piece: a phone is slow to ask for it file by file."""
    return Response(script_text(), media_type="text/javascript", headers={"cache-control": CACHE})


@router.get("/field/away.js")
async def worker() -> Response:
    """Return the worker that shows the page again when the server is out of reach."""
    path = WEB / "rooms/field/script/away.js"
    return FileResponse(
        path, media_type="text/javascript", headers={"service-worker-allowed": "/field", "cache-control": "no-cache"}
    )
