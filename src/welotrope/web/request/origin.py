"""Where a request comes from: this computer or a paired device."""

from __future__ import annotations

import ipaddress
from urllib.parse import urlsplit

from starlette.requests import Request

LOCAL_HOSTS = {"127.0.0.1", "localhost", "::1"}


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
