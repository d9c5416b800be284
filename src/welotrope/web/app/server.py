"""Serving the application on the loopback address: patient with nobody, and always ready to stop."""

from __future__ import annotations

import asyncio
import contextlib
import ctypes
import datetime as dt
import errno
import gc
import ipaddress
import os
import socket
import sys
import threading
import time
import webbrowser
from pathlib import Path
from typing import Any

import uvicorn
from fastapi import FastAPI
from uvicorn.protocols.http.h11_impl import H11Protocol

LOOPBACK = "127.0.0.1"
HEADERS_S = 10.0
STOP_S = 1
BACKLOG = 256
_ARENA_MAX = -8  # of mallopt(3)
_TRIM_S, _MUCH_BYTES = 1.0, 200_000_000
SWITCH_S = 0.001  # seconds after which a thread that works lets another run


def local_now() -> dt.datetime:
    """Return the wall clock of the place, without a zone, to the second: what a photographer writes down."""
    return dt.datetime.now().replace(microsecond=0)


def open_browser(url: str) -> None:
    """Open an address in the browser, beside everything else; nothing happens where there is no screen."""
    if sys.platform.startswith("linux") and not (os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY")):
        return  # a browser of the terminal would take the terminal
    threading.Thread(target=webbrowser.open, args=(url,), daemon=True).start()


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


def lan_address() -> str:
    """Return this computer's address on the local network.

    Raises
    ------
    PortUnusableError
        When it is on none.
    """
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        try:
            probe.connect(("192.0.2.1", 9))  # an address of documentation: nothing is sent, a way is only chosen
            found: str = probe.getsockname()[0]
        except OSError:
            found = "127.0.0.1"
    if found.startswith("127."):
        raise PortUnusableError("This computer is on no network. Join one, or say its address with --address.")
    return found


def is_loopback(address: str) -> bool:
    """Whether an address is one by which a computer only reaches itself; a name or no address is none."""
    try:
        return ipaddress.ip_address(address).is_loopback
    except ValueError:
        return False


def bind(port: int, *, address: str = LOOPBACK) -> socket.socket:
    """Take the port on an address, by default the loopback one.

    Raises
    ------
    PortUnusableError
        When something else has it, or it may not be used.
    """
    # Named as TCP, or the event loop leaves small packets waiting 40 ms for an acknowledgement.
    taken = socket.socket(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    taken.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        taken.bind((address, port))
        taken.listen(BACKLOG)
    except OSError as error:
        taken.close()
        if error.errno == errno.EADDRINUSE and address != LOOPBACK:
            raise PortUnusableError(f"Port {port} of {address} is in use. Choose another with --port.") from error
        if error.errno == errno.EADDRINUSE:
            raise PortUnusableError(
                f"Port {port} is in use, perhaps by a Welotrope that is running: open http://127.0.0.1:{port},"
                " or choose another with --port."
            ) from error
        if error.errno == errno.EADDRNOTAVAIL:
            raise PortUnusableError(
                f"{address} is no address of this computer. Leave --address out, or correct it."
            ) from error
        raise PortUnusableError(
            f"Port {port} may not be used ({error.strerror}). Choose another with --port."
        ) from error
    taken.set_inheritable(True)
    return taken


def _share_memory_pools() -> None:
    """Let threads share two pools of memory where the system's library has one for each of them.

    Frames of pictures take tens of megabytes for a moment; every pool kept what it once had.
    """
    with contextlib.suppress(OSError, AttributeError):
        ctypes.CDLL("libc.so.6").mallopt(_ARENA_MAX, 2)


def _give_memory_back() -> None:
    """Every few seconds give the system back what pools hold and nobody uses, once it is much; on Linux."""
    with contextlib.suppress(OSError, AttributeError, ValueError):
        trim, page = ctypes.CDLL("libc.so.6").malloc_trim, os.sysconf("SC_PAGE_SIZE")
        statm = Path("/proc/self/statm")
        while True:
            time.sleep(_TRIM_S)
            if int(statm.read_text().split()[1]) * page > _MUCH_BYTES:
                trim(0)


def run(app: FastAPI, *listening: socket.socket) -> None:
    """Serve until told to stop; what is still open then has a second.

    What still works in a thread after that is left: what it had not committed is as if it never was.
    """
    config = uvicorn.Config(
        app, log_level="warning", server_header=False, http=ImpatientProtocol, timeout_keep_alive=15,
        timeout_graceful_shutdown=STOP_S, backlog=BACKLOG,
    )  # fmt: skip
    sys.setswitchinterval(SWITCH_S)
    _share_memory_pools()
    if sys.platform.startswith("linux"):
        threading.Thread(target=_give_memory_back, daemon=True).start()
    gc.freeze()  # what is there now stays: no sweep need look at it again
    uvicorn.Server(config).run(sockets=list(listening))
    if any(not thread.daemon for thread in threading.enumerate() if thread is not threading.main_thread()):
        sys.stdout.flush()
        sys.stderr.flush()
        os._exit(0)
