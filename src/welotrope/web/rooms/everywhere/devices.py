"""/devices at the computer, /pair on the device."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

import segno
from fastapi import APIRouter
from starlette.responses import HTMLResponse, RedirectResponse, Response

from welotrope.core.errors import WelotropeError
from welotrope.store.queries import devices
from welotrope.store.queries.devices import Device
from welotrope.web.request import device_pairing
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.request.device_pairing import (
    CODE_LIVES_S,
    COOKIE,
    COOKIE_S,
    MINUTE_S,
    DevicePairing,
    NotPairedError,
    TooManyTriesError,
    Tries,
)
from welotrope.web.request.templating import environment

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
        may=tuple(leave.words for leave in device_pairing.MAY), may_not=device_pairing.MAY_NOT,
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class PairPage:
    """What an unpaired device sees: a code to type, a name, and what was wrong."""

    code: str = ""
    name: str = ""
    problem: str = ""
    look: str = "bench"


router = APIRouter()


def _door(context: RequestContext) -> DevicePairing | None:
    pairing: DevicePairing | None = context.request.app.state.device_pairing
    return pairing


@router.get("/devices")
def show(context: CurrentContext) -> Response:
    """List paired devices, and how to let one in."""
    return context.page("everywhere/devices/page.html", devices_page(_door(context), devices.list_devices(context.uow)))


@router.post("/devices/code")
def make_code(context: CurrentContext) -> Response:
    """Make a code for one device and show it."""
    pairing = _door(context)
    page = devices_page(pairing, devices.list_devices(context.uow), code=pairing.new_code() if pairing else "")
    return context.page("everywhere/devices/page.html", page)


@router.post("/devices/{id}/revoke")
def revoke(context: CurrentContext, id: int) -> Response:
    """Let a device in no more, from this moment on."""
    with context.transaction():
        devices.revoke_device(context.uow, id)
    pairing = _door(context)
    if pairing is not None:
        pairing.load()
    return context.go("/devices")


@router.get("/pair")
def offer(context: CurrentContext) -> Response:
    """Show what an unpaired device is asked."""
    return _pair_page(context, PairPage(code=context.request.query_params.get("code", "")[:20]))


@router.post("/pair")
def pair(context: CurrentContext) -> Response:
    """Pair a device by the code; it goes on to the field page."""
    pairing = _door(context)
    code, name = (str(context.typed.get(field, ""))[:200] for field in ("code", "name"))
    page = PairPage(code=code[:20], name=name[:40])
    if pairing is None:
        return _pair_page(
            context, page, problem="The pairing is closed: start Welotrope with --lan on the computer.", status=403
        )
    try:
        secret = pairing.pair(code, name, context.request.client.host if context.request.client else "")
    except TooManyTriesError as error:
        return _pair_page(context, page, problem=str(error), status=429)
    except NotPairedError as error:
        return _pair_page(context, page, problem=str(error), status=403)
    except WelotropeError as error:
        return _pair_page(context, page, problem=error.sentence, status=422)
    answer = RedirectResponse("/field", 303)
    answer.set_cookie(COOKIE, secret, max_age=COOKIE_S, httponly=True, samesite="strict", path="/")
    return answer


def _pair_page(context: RequestContext, page: PairPage, *, problem: str = "", status: int = 200) -> Response:
    """Show the page by itself: nothing of the kit is on it."""
    shown = PairPage(code=page.code, name=page.name, problem=problem, look=context.preferences.look.value)
    html = environment().get_template("rooms/everywhere/devices/pair.html").render(page=shown)
    return HTMLResponse(html, status, headers={"cache-control": "no-store"})
