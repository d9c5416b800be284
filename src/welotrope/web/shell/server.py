"""Serving the application on the loopback address: patient with nobody, and always ready to stop."""

from __future__ import annotations

import asyncio
import errno
import socket
from typing import Any

import uvicorn
from fastapi import FastAPI
from uvicorn.protocols.http.h11_impl import H11Protocol

HEADERS_S = 10.0
STOP_S = 5
BACKLOG = 256


class PortUnusableError(Exception):
    """The port cannot be served on."""


class ImpatientProtocol(H11Protocol):
    """HTTP/1.1 that closes a connection whose request line and headers do not come within some seconds."""

    _waiting: asyncio.TimerHandle | None = None

    def connection_made(self, transport: Any) -> None:
        """Start to wait for a request."""
        super().connection_made(transport)
        self._waiting = self.loop.call_later(HEADERS_S, self._give_up)

    def handle_events(self) -> None:
        """Stop waiting once a request has begun; wait again for the next on the same connection."""
        super().handle_events()
        if self.cycle is not None and self._waiting is not None:
            self._waiting.cancel()
            self._waiting = None

    def connection_lost(self, exc: Exception | None) -> None:
        """Stop waiting."""
        if self._waiting is not None:
            self._waiting.cancel()
        super().connection_lost(exc)

    def _give_up(self) -> None:
        if self.cycle is None and not self.transport.is_closing():
            self.transport.close()


def bind(port: int) -> socket.socket:
    """Take the port on the loopback address.

    Raises
    ------
    PortUnusableError
        When something else has it, or it may not be used.
    """
    # Named as TCP, or the event loop leaves small packets waiting 40 ms for an acknowledgement.
    taken = socket.socket(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    taken.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        taken.bind(("127.0.0.1", port))
        taken.listen(BACKLOG)
    except OSError as error:
        taken.close()
        if error.errno == errno.EADDRINUSE:
            raise PortUnusableError(
                f"Port {port} is in use, perhaps by a Welotrope that is running: open http://127.0.0.1:{port},"
                " or choose another with --port."
            ) from error
        raise PortUnusableError(
            f"Port {port} may not be used ({error.strerror}). Choose another with --port."
        ) from error
    taken.set_inheritable(True)
    return taken


def run(app: FastAPI, listening: socket.socket) -> None:
    """Serve until told to stop; what is still open then has five seconds."""
    config = uvicorn.Config(
        app, log_level="warning", server_header=False, http=ImpatientProtocol, timeout_keep_alive=15,
        timeout_graceful_shutdown=STOP_S, backlog=BACKLOG,
    )  # fmt: skip
    uvicorn.Server(config).run(sockets=[listening])
