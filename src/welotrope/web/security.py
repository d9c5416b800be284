"""Refuse foreign hosts, cross-site writes and oversized bodies; send strict headers with everything."""

from __future__ import annotations

from urllib.parse import urlsplit

from starlette.exceptions import HTTPException
from starlette.requests import Request
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from welotrope.web.errors import error_response
from welotrope.web.limits import MAX_BODY_BYTES

TOO_LARGE = f"That is more than {MAX_BODY_BYTES // 1024 // 1024} MB; nothing was stored. Send less at once."
SAFE_METHODS = {"GET", "HEAD", "OPTIONS"}
LOCAL_HOSTS = {"127.0.0.1", "localhost", "::1"}
HEADERS = {
    "content-security-policy": (
        "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; img-src 'self' data:; "
        "connect-src 'self'; form-action 'self'; frame-ancestors 'none'; base-uri 'none'"
    ),
    "x-content-type-options": "nosniff",
    "referrer-policy": "same-origin",
    "cross-origin-opener-policy": "same-origin",
    "cross-origin-resource-policy": "same-origin",
}


class Guard:
    """ASGI middleware in front of everything."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Check the request, then pass it on with a counted body and guarded headers."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        request = Request(scope)
        guarded_send = _with_headers(send)
        refusal = _refusal(request)
        if refusal is not None:
            await error_response(request, *refusal)(scope, receive, guarded_send)
            return
        await self.app(scope, _counted(receive), guarded_send)


def _refusal(request: Request) -> tuple[int, str] | None:
    if urlsplit(f"//{request.headers.get('host', '')}").hostname not in LOCAL_HOSTS:
        return 400, "This address is not one Welotrope answers to. Open it at http://127.0.0.1 with its port."
    if request.method not in SAFE_METHODS and not _same_origin(request):
        return 403, "This came from another site and was refused. Use the pages of Welotrope itself."
    if _declared_length(request) > MAX_BODY_BYTES:
        return 413, TOO_LARGE
    return None


def _declared_length(request: Request) -> int:
    declared = request.headers.get("content-length", "0")
    return int(declared) if declared.isdigit() else 0


def _same_origin(request: Request) -> bool:
    site = request.headers.get("sec-fetch-site")
    if site is not None:
        return site == "same-origin"
    origin = request.headers.get("origin")
    if origin is None:
        # Programs other than browsers may use the calculations, which store nothing.
        return request.url.path.startswith("/api/calc/")
    return urlsplit(origin).netloc == request.headers.get("host")


def _counted(receive: Receive) -> Receive:
    seen = 0

    async def counted() -> Message:
        nonlocal seen
        message = await receive()
        seen += len(message.get("body", b""))
        if seen > MAX_BODY_BYTES:
            raise HTTPException(413, TOO_LARGE)
        return message

    return counted


def _with_headers(send: Send) -> Send:
    async def guarded(message: Message) -> None:
        if message["type"] == "http.response.start":
            present = {name.lower() for name, _ in message["headers"]}
            extra = [(name.encode(), value.encode()) for name, value in HEADERS.items() if name.encode() not in present]
            message = {**message, "headers": [*message["headers"], *extra]}
        await send(message)

    return guarded
