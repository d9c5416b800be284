"""What the pages of devices show."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

import segno

from welotrope.store.queries.devices import Device
from welotrope.web.request import guests
from welotrope.web.request.device_pairing import CODE_LIVES_S, MINUTE_S, DevicePairing, Tries

_MOST_SHOWN = 10


@dataclass(frozen=True, kw_only=True)
class DevicesPage:
    """Whether there is a door, who is paired, and a code just made with its picture."""

    url: str
    devices: tuple[tuple[Device, dt.datetime], ...]
    code: str = ""
    picture: str = ""
    lives_min: int = 0
    refused: tuple[tuple[str, Tries], ...] = ()
    may: tuple[str, ...] = ()
    may_not: str = ""


def devices_page(door: DevicePairing | None, kept: list[Device], *, code: str = "") -> DevicesPage:
    """Gather the page; with a code it is drawn."""
    seen = door.seen if door else {}
    picture = ""
    if door and code:
        made = segno.make(door.code_url(code), micro=False)
        picture = made.svg_inline(omitsize=True, border=4, dark="#000", light="#fff", svgclass="qr", lineclass=None)
    return DevicesPage(
        url=door.url if door else "", devices=tuple((one, seen.get(one.id, one.seen)) for one in kept),
        code=f"{code[:4]}-{code[4:]}" if code else "", picture=picture,
        lives_min=round(CODE_LIVES_S / MINUTE_S), refused=tuple(door.refused()[:_MOST_SHOWN]) if door else (),
        may=tuple(leave.words for leave in guests.MAY), may_not=guests.MAY_NOT,
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class PairPage:
    """What an unpaired device sees: a code to type, a name, and what was wrong."""

    code: str = ""
    name: str = ""
    problem: str = ""
    look: str = "bench"
