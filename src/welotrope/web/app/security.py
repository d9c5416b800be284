"""Refuse foreign hosts, unpaired devices, cross-site writes and oversized bodies; strict headers on everything."""

from __future__ import annotations

import asyncio
import re
from urllib.parse import urlsplit

from starlette.exceptions import HTTPException
from starlette.requests import Request
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from welotrope.web.request import device_pairing
from welotrope.web.request.device_pairing import COOKIE, DevicePairing
from welotrope.web.request.errors import error_response
from welotrope.web.request.limits import (
    HEADERS,
    LOCAL_HOSTS,
    SAFE_METHODS,
    STALL_S,
    camera_allowed,
    from_here,
    host_name,
    is_guest,
    most_bytes,
)

TOO_SLOW = "The rest of that did not come; nothing was stored. Send it again."
# What a device needs before it is paired.
_TO_PAIR, _TO_PAIR_UNDER = {"/pair", "/favicon.ico", "/apple-touch-icon.png", "/robots.txt"}, ("/static/",)
# What is no page: another site may lead a person to a page, and let a browser ask for nothing else.
_NO_PAGE = re.compile(r"/api/.*|/static/.*|.*\.[A-Za-z0-9]{1,11}|/kit/backups/.*|/log/pictures/\d+/.*|.*/frame")
_OWN_SITES = {"same-origin", "none"}
NOT_KEPT = "no-store"
_CAMERA_PAGE = "/aids/live"  # the only page that may ask for one


class Guard:
    """ASGI middleware in front of everything."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Check the request, then pass it on with a counted, timed body and guarded headers."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        request = Request(scope)
        guarded_send = _with_headers(send, _headers_for(request))
        if scope["method"] == "HEAD":
            # Whatever answers GET answers HEAD: the same headers, nothing after them.
            scope, guarded_send = {**scope, "method": "GET"}, _without_body(guarded_send)
        refusal = _refusal(request)
        if refusal is not None:
            await error_response(request, *refusal)(scope, receive, guarded_send)
            return
        await self.app(scope, _counted(receive, most_bytes(scope["path"])), guarded_send)


def _refusal(request: Request) -> tuple[int, str] | None:
    pairing: DevicePairing | None = request.app.state.device_pairing
    local = host_name(request.headers.get("host", "")) in LOCAL_HOSTS
    if pairing is not None and not (local and from_here(request)):
        refusal = _lan_refusal(request, pairing)
        if refusal is not None:
            return refusal
    elif not local:
        return 400, "This address is not one Welotrope answers to. Open it at http://127.0.0.1 with its port."
    if not (_same_origin(request) if request.method not in SAFE_METHODS else _asked_from_here(request)):
        return 403, "This came from another site and was refused. Use the pages of Welotrope itself."
    most = most_bytes(request.scope["path"])
    if _declared_length(request) > most:
        return 413, too_large(most)
    return None


def _lan_refusal(request: Request, pairing: DevicePairing) -> tuple[int, str] | None:
    """Refuse what comes over the local network unless its device is paired, or it is about to be."""
    path = str(request.scope["path"])
    if request.headers.get("host", "") != pairing.host:
        return 400, f"This address is not one Welotrope answers to. Open it at {pairing.url}."
    if path in _TO_PAIR or path.startswith(_TO_PAIR_UNDER):
        return None
    if pairing.device_of(request.cookies.get(COOKIE)) is None:
        return (
            401,
            f"This device is not paired. Make a code on the computer (Field, Devices) and open {pairing.url}/pair.",
        )
    if not device_pairing.may(request.method, path):
        return 403, f"This is done at the computer itself: a paired device may not {device_pairing.MAY_NOT}."
    return None


def _headers_for(request: Request) -> dict[str, str]:
    """Return what an answer carries: a device that may be let in no more keeps nothing but what is no secret."""
    path = str(request.scope["path"])
    if path == _CAMERA_PAGE:
        return {**HEADERS, "permissions-policy": camera_allowed()}
    if path.startswith(_TO_PAIR_UNDER):  # scripts ask for many of these, as they like
        return {name: value for name, value in HEADERS.items() if name != "cache-control"}
    return {**HEADERS, "cache-control": NOT_KEPT} if is_guest(request) else HEADERS


def _asked_from_here(request: Request) -> bool:
    """Whether a request that reads was made by our own pages, by the person, or leads the person to a page."""
    site = request.headers.get("sec-fetch-site")
    if site is None or site in _OWN_SITES:
        return True
    led = request.headers.get("sec-fetch-mode") == "navigate" and request.headers.get("sec-fetch-dest") == "document"
    return led and request.method == "GET" and _NO_PAGE.fullmatch(str(request.scope["path"])) is None


def _declared_length(request: Request) -> int:
    declared = request.headers.get("content-length", "0")
    return int(declared) if declared.isascii() and declared.isdigit() and len(declared) < 16 else 0


def _same_origin(request: Request) -> bool:
    site = request.headers.get("sec-fetch-site")
    if site is not None:
        return site == "same-origin"
    origin = request.headers.get("origin")
    if origin is None:
        # Programs other than browsers may use what stores nothing.
        return str(request.scope["path"]).startswith(("/api/calc/", "/api/testshot/", "/api/live/"))
    try:
        split = urlsplit(origin)
    except ValueError:
        return False
    return bool((split.scheme, split.netloc) == (request.scope["scheme"], request.headers.get("host")))


def too_large(most: int) -> str:
    """Return what is said of a request that brings more than ``most`` bytes."""
    return f"That is more than {most // 1024 // 1024} MB; nothing was stored. Send less at once."


def _counted(receive: Receive, most: int) -> Receive:
    seen = 0
    whole = False

    async def counted() -> Message:
        nonlocal seen, whole
        if whole:  # only a disconnection can follow, and that may take as long as it likes
            return await receive()
        try:
            message = await asyncio.wait_for(receive(), STALL_S)
        except TimeoutError:
            raise HTTPException(408, TOO_SLOW) from None
        seen += len(message.get("body", b""))
        whole = not message.get("more_body", False)
        if seen > most:
            raise HTTPException(413, too_large(most))
        return message

    return counted


def _with_headers(send: Send, wanted: dict[str, str]) -> Send:
    not_kept = wanted.get("cache-control") == NOT_KEPT

    async def guarded(message: Message) -> None:
        if message["type"] == "http.response.start":
            given = [pair for pair in message["headers"] if not not_kept or pair[0].lower() != b"cache-control"]
            present = {name.lower() for name, _ in given}
            extra = [(name.encode(), value.encode()) for name, value in wanted.items() if name.encode() not in present]
            message = {**message, "headers": [*given, *extra]}
        await send(message)

    return guarded


def _without_body(send: Send) -> Send:
    ended = False

    async def bare(message: Message) -> None:
        nonlocal ended
        if message["type"] == "http.response.start":
            await send(message)
            await send({"type": "http.response.body", "body": b"", "more_body": False})
            ended = True
        elif not ended:
            await send(message)

    return bare
