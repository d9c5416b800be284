"""The documentation of the JSON API, from files that ship with the application."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import HTMLResponse

from welotrope.web.request.templating import environment

router = APIRouter()


@router.get("/api/docs")
def api_docs() -> HTMLResponse:
    """Show the API with its schema and a way to try it."""
    return HTMLResponse(environment().get_template("api/docs.html").render())
