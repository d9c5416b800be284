"""What a request may bring, where it comes from, and where it may send one on to."""

from __future__ import annotations

import ipaddress
from typing import Annotated
from urllib.parse import urlsplit

from fastapi import Query
from starlette.requests import Request

SAFE_METHODS = {"GET", "HEAD", "OPTIONS"}
MAX_BODY_BYTES = 2 * 1024 * 1024
# What may bring more: pictures, which go to the disk as they come.
_MOST_BYTES = {
    "/log/pictures/drop": 260 * 1024 * 1024, "/api/testshot/slope": 260 * 1024 * 1024,
    "/api/testshot/row": 260 * 1024 * 1024,
    **{f"/api/testshot/{series}": 1024 * 1024 * 1024 for series in ("ring", "stops", "shift", "wall")},
}  # fmt: skip
# Seconds a sender may take for the next part of a request before it is given up.
STALL_S = 10.0
MAX_PATH = 12_000  # a way back may hold a form
Key = Annotated[int, Query(ge=1, lt=2**63)]
_DEVICES = ("camera", "microphone", "geolocation", "display-capture", "usb", "serial", "midi")
LOCAL_HOSTS = {"127.0.0.1", "localhost", "::1"}


def most_bytes(path: str) -> int:
    """Return how much a request to a path may bring."""
    return _MOST_BYTES.get(path, MAX_BODY_BYTES)


def local_path(path: str, *, otherwise: str = "/") -> str:
    """Return a path of this application, so that no form or link sends anyone elsewhere."""
    own = path.startswith("/") and not path.startswith(("//", "/\\")) and path.isprintable() and len(path) <= MAX_PATH
    return path if own else otherwise


HEADERS = {
    "content-security-policy": (
        "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; img-src 'self' data:; "
        "connect-src 'self'; form-action 'self'; frame-ancestors 'none'; base-uri 'none'"
    ),
    "permissions-policy": ", ".join(f"{device}=()" for device in _DEVICES),
    "cache-control": "private, no-cache",
    "x-content-type-options": "nosniff",
    "referrer-policy": "same-origin",
    "cross-origin-opener-policy": "same-origin",
    "cross-origin-resource-policy": "same-origin",
}


def camera_allowed() -> str:
    """Return the permissions of a page that may ask for a camera, and for nothing else."""
    return ", ".join(f"{device}=({'self' if device == 'camera' else ''})" for device in _DEVICES)


def from_here(request: Request) -> bool:
    """Whether a request comes from this computer, whatever it says of its host."""
    try:
        return request.client is not None and ipaddress.ip_address(request.client.host).is_loopback
    except ValueError:
        return False


def is_guest(request: Request) -> bool:
    """Whether a request comes from a paired device, not from this computer."""
    local = host_name(request.headers.get("host", "")) in LOCAL_HOSTS
    return request.app.state.device_pairing is not None and not (local and from_here(request))


def host_name(host: str) -> str | None:
    """Return the host of a Host header without its port; None for one that is none."""
    try:
        split = urlsplit(f"//{host}")
        _ = split.port
    except ValueError:  # such as a bracket that is not closed
        return None
    return None if split.path or split.query or split.username is not None else split.hostname
