"""What browsers and tools ask for besides pages: robots, icons, manifest, the API explained; HEAD where GET works."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import FileResponse, HTMLResponse, PlainTextResponse, Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from welotrope.web.request.templating import STATIC, environment

router = APIRouter()
_ICONS = {"/favicon.ico": "icon-192.png", "/apple-touch-icon.png": "icon-180.png"}


@router.get("/robots.txt")
async def robots() -> PlainTextResponse:
    """Ask crawlers to stay out: it is one person's notebook."""
    return PlainTextResponse("User-agent: *\nDisallow: /\n")


@router.get("/manifest.webmanifest")
async def manifest() -> Response:
    """Describe the application to a browser that would install it."""
    return FileResponse(STATIC / "manifest.webmanifest", media_type="application/manifest+json")


@router.get("/api/docs")
def api_docs() -> HTMLResponse:
    """Show the API with its schema and a way to try it."""
    return HTMLResponse(environment().get_template("api/docs.html").render())


def _icon(name: str) -> None:
    async def icon() -> FileResponse:
        return FileResponse(STATIC / _ICONS[name], media_type="image/png")

    router.add_api_route(name, icon, methods=["GET"])


for _name in _ICONS:
    _icon(_name)


class HeadAsGet:
    """Answer HEAD as GET would, without the body."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request on; of HEAD only the beginning of the answer goes back."""
        if scope["type"] != "http" or scope["method"] != "HEAD":
            await self.app(scope, receive, send)
            return

        async def bodiless(message: Message) -> None:
            if message["type"] == "http.response.body":
                message = {**message, "body": b""}
            await send(message)

        await self.app({**scope, "method": "GET"}, receive, bodiless)
