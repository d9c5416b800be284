"""The door to the local network: which devices may come in, what they can do, and how they are paired."""

from __future__ import annotations

import datetime as dt
import hashlib
import hmac
import re
import secrets
import threading
import time
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field

from welotrope.core.units.text import check_name
from welotrope.store.queries import devices
from welotrope.store.session import Database

_ID = r"\d+"
_KEY = r"[0-9A-Za-z_-]+"
MAY_NOT = (
    "delete anything, change the kit or the ring, see where files lie, bring files in or take them out, stop work, or"
    " let other devices in"
)
# What an undo of a device may take back: what it may log and practise.
UNDOES = {"frame", "outing", "trial", "drill", "preset", "picture", "sheet_tick", "received", "eye_constant"}
COOKIE = "welotrope_device"
COOKIE_S = 365 * 24 * 3600
CODE_LIVES_S, MINUTE_S = 600.0, 60.0
# No letter that could be taken for another, nor for a digit.
_ALPHABET = "ABCDEFGHJKMNPQRSTUVWXYZ23456789"
_CODE_LENGTH = 8
_TRIES_A_CODE = 8
_TRIES_A_MINUTE = 10
_MOST_ADDRESSES = 500  # that are counted; more than a local network has


@dataclass(frozen=True)
class Leave:
    """Something a device may do, in words, with the methods and paths that it takes."""

    words: str
    reads: tuple[str, ...] = ()
    sends: tuple[str, ...] = ()

    def covers(self, method: str, path: str) -> bool:
        """Whether a request is part of it."""
        patterns = self.reads if method in ("GET", "HEAD", "OPTIONS") else self.sends if method == "POST" else ()
        return any(re.fullmatch(pattern, path) for pattern in patterns)


MAY = (
    Leave(
        "read Field, Scale, Plan, Aids and Kit",
        reads=(
            "/", "/field", r"/field/(script|away)\.js", r"/field/cards(\.pdf|\.svg)?", r"/field/pocket(\.html)?",
            "/scale", "/scale/(aid|infinity|marks|measure|print|shift)", r"/scale/print\.(csv|pdf|svg)",
            "/plan", "/plan/(close|compare|light|moving|night|sitter|zones)", "/aids", "/aids/constants",
            "/aids/live(/scale)?", rf"/aids/live/made-up/{_KEY}\.json", rf"/aids/live/made-up/{_KEY}/{_ID}\.jpg",
            "/kit",
            f"/kit/(adapters|attachments|bodies|lenses|mounts|setups)/{_ID}", f"/kit/bodies/{_ID}/slots",
            f"/kit/setups/{_ID}/sheet", "/setups", "/jump", "/help", f"/help/{_KEY}", "/api/docs", "/api/openapi.json",
            "/api/calc/[a-z]+", r"/manifest\.webmanifest",
        ),
        sends=("/api/calc/[a-z]+", "/api/live/(measure|outline)"),
    ),
    Leave(
        "read the log, log and mark frames, and undo that",
        reads=("/log", f"/log/frames/{_ID}", "/log/(new|report|review|rolls|type|why)", f"/log/rolls/{_ID}"),
        sends=(
            "/field/queue", "/log/frames", f"/log/frames/{_ID}", f"/log/frames/{_ID}/mark", "/log/outings",
            "/log/type", "/log/type/echo", f"/log/review/{_ID}", f"/undo/{_ID}",
        ),
    ),
    Leave("see test shots", reads=("/shots", rf"/shots/{_ID}\.jpg")),
    Leave("see pictures as thumbnails and at screen size", reads=(f"/log/pictures/{_ID}/(thumb|preview)",)),
    Leave(
        "practise",
        reads=(
            "/practice", "/practice/(approach|daily|display|guess|hand|lean|reaction|tape)",
            rf"/practice/photos/{_KEY}\.jpg", f"/practice/rounds/{_KEY}(/frame)?", f"/practice/trials/{_ID}",
        ),
        sends=(
            "/practice/(approach|daily|display|guess|lean|tape)", "/practice/(approach|daily|guess|lean|tape)/begin",
            "/practice/person", "/practice/rounds", f"/practice/rounds/{_KEY}/(leave|shutter)", "/plan/reaction",
        ),
    ),
    Leave(
        "select a set-up, units and look, save presets, and tick off the sheet",
        sends=("/in-hand", "/zoom", "/unit", "/look", "/seen", "/presets", f"/kit/setups/{_ID}/sheet/tick"),
    ),
)  # fmt: skip


def may(method: str, path: str) -> bool:
    """Whether a paired device may send a request."""
    return any(leave.covers(method, path) for leave in MAY)


class NotPairedError(Exception):
    """A code was not taken; says why and what would work."""


class TooManyTriesError(NotPairedError):
    """Codes are tried faster than a hand would."""


@dataclass
class _Code:
    """A code, and until when it lives on a clock that nobody sets."""

    text: str
    until: float


@dataclass
class Tries:
    """What an address has tried: when by a clock nobody sets, how often it was refused for this code, and when last."""

    within_a_minute: list[float] = field(default_factory=list)
    wrong_for_code: int = 0
    refused: int = 0
    last: dt.datetime | None = None


class DevicePairing:
    """Who may come in over the local network.

    Parameters
    ----------
    address, port
        What the application is reached at; the Host of every request from outside must name just these.
    database, now
        Where devices are kept, and the clock on the wall.
    ticks
        Seconds of a clock that nobody sets.
    """

    def __init__(
        self, address: str, port: int, database: Database, now: Callable[[], dt.datetime],
        *, ticks: Callable[[], float] = time.monotonic,
    ) -> None:  # fmt: skip
        self.address, self.port = address, port
        self._database, self._now, self._ticks = database, now, ticks
        self._lock = threading.Lock()
        self._code: _Code | None = None
        self._used: set[str] = set()
        self._tries: OrderedDict[str, Tries] = OrderedDict()
        self.seen: dict[int, dt.datetime] = {}
        self._known: dict[str, int] = {}
        self.load()

    @property
    def host(self) -> str:
        """What the Host of a request from outside must be."""
        return f"{self.address}:{self.port}"

    @property
    def url(self) -> str:
        """Where a paired device finds the application."""
        return f"http://{self.host}"

    def load(self) -> None:
        """Read who is paired."""
        with self._database.session(write=False) as uow:
            self._known = devices.secrets_of(uow)

    def new_code(self) -> str:
        """Make a code for one device, in place of the last; it lives ten minutes."""
        with self._lock:
            text = "".join(secrets.choice(_ALPHABET) for _ in range(_CODE_LENGTH))
            self._code = _Code(text, self._ticks() + CODE_LIVES_S)
            for tries in self._tries.values():
                tries.wrong_for_code = 0
            return text

    def refused(self) -> list[tuple[str, Tries]]:
        """Return which addresses were refused, the last first."""
        with self._lock:
            return [(address, tries) for address, tries in reversed(self._tries.items()) if tries.refused]

    def code_url(self, code: str) -> str:
        """Return the address that pairs with a code."""
        return f"{self.url}/pair?code={code}"

    def device_of(self, secret: str | None) -> int | None:
        """Return the key of the device that a secret belongs to, None for none; notes that it was seen."""
        id = self._known.get(_hash(secret)) if secret else None
        if id is not None:
            self.seen[id] = self._now()
        return id

    def take_code(self, code: str, address: str) -> None:
        """Use a code up. Tries are counted by the address they come from: nobody can use up those of another.

        Raises
        ------
        NotPairedError
            When it is wrong, used, or too old.
        TooManyTriesError
            When too many were tried within a minute.
        """
        tried = code.strip().upper().replace(" ", "").replace("-", "")
        with self._lock:
            tries = self._tries_of(address)
            try:
                self._take(tried, tries)
            except NotPairedError:
                tries.refused, tries.last = tries.refused + 1, self._now()
                raise

    def _take(self, tried: str, tries: Tries) -> None:
        self._count_try(tries)
        current = self._code
        if tried in self._used:
            raise NotPairedError("That code was used. Make another on the computer: Field, Devices.")
        if current is None or self._ticks() > current.until:
            self._code = None
            raise NotPairedError("There is no code to take now. Make one on the computer: Field, Devices.")
        if tries.wrong_for_code >= _TRIES_A_CODE:
            raise TooManyTriesError("Too many wrong codes came from this device. Make another on the computer.")
        if not hmac.compare_digest(tried.encode(), current.text.encode()):
            tries.wrong_for_code += 1
            raise NotPairedError("That is not the code. Read it again from the computer’s screen.")
        self._used.add(tried)
        self._code = None

    def _tries_of(self, address: str) -> Tries:
        tries = self._tries.setdefault(address, Tries())
        self._tries.move_to_end(address)
        if len(self._tries) > _MOST_ADDRESSES:
            self._tries.popitem(last=False)
        return tries

    def _count_try(self, tries: Tries) -> None:
        now = self._ticks()
        tries.within_a_minute = [at for at in tries.within_a_minute if now - at < MINUTE_S]
        if len(tries.within_a_minute) >= _TRIES_A_MINUTE:
            raise TooManyTriesError("Too many codes were tried from this device. Wait a minute.")
        tries.within_a_minute.append(now)

    def pair(self, code: str, name: str, address: str) -> str:
        """Pair a device by a code; returns its secret. Errors as :meth:`take_code`, and for a name that cannot be."""
        called = check_name(name.strip(), devices.NAME, limit=devices.NAME_LIMIT)  # first: a code is good once
        self.take_code(code, address)
        secret = secrets.token_urlsafe(32)
        with self._database.session() as uow:
            id = devices.add_device(uow, called, _hash(secret), self._now())
            uow.commit()
        self._known[_hash(secret)] = id
        return secret

    def note_seen(self) -> None:
        """Write down when devices were last seen."""
        with self._database.session() as uow:
            devices.note_seen(uow, self.seen)
            uow.commit()


def _hash(secret: str) -> str:
    return hashlib.sha256(secret.encode()).hexdigest()
