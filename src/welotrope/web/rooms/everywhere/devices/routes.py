"""/devices at the computer, /pair on the device."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import HTMLResponse, RedirectResponse, Response

from welotrope.core.errors import WelotropeError
from welotrope.store.queries import devices
from welotrope.web.rooms.everywhere.devices.context import PairPage, devices_page
from welotrope.web.shell.desk import AtDesk, Desk
from welotrope.web.shell.door import COOKIE, COOKIE_S, Door, NotPairedError, TooManyTriesError
from welotrope.web.shell.templating import environment

router = APIRouter()


def _door(desk: Desk) -> Door | None:
    door: Door | None = desk.request.app.state.door
    return door


@router.get("/devices")
def show(desk: AtDesk) -> Response:
    """List paired devices, and how to let one in."""
    return desk.page("everywhere/devices/page.html", devices_page(_door(desk), devices.list_devices(desk.book)))


@router.post("/devices/code")
def make_code(desk: AtDesk) -> Response:
    """Make a code for one device and show it."""
    door = _door(desk)
    page = devices_page(door, devices.list_devices(desk.book), door.new_code() if door else "")
    return desk.page("everywhere/devices/page.html", page)


@router.post("/devices/{id}/revoke")
def revoke(desk: AtDesk, id: int) -> Response:
    """Let a device in no more, from this moment on."""
    with desk.remember():
        devices.revoke_device(desk.book, id)
    door = _door(desk)
    if door is not None:
        door.load()
    return desk.go("/devices")


@router.get("/pair")
def offer(desk: AtDesk) -> Response:
    """Show what an unpaired device is asked."""
    return _pair_page(desk, PairPage(code=desk.request.query_params.get("code", "")[:20]))


@router.post("/pair")
def pair(desk: AtDesk) -> Response:
    """Pair a device by the code; it goes on to the field page."""
    door = _door(desk)
    code, name = (str(desk.typed.get(field, ""))[:200] for field in ("code", "name"))
    page = PairPage(code=code[:20], name=name[:40])
    if door is None:
        return _pair_page(desk, page, "The door is closed: start Welotrope with --lan on the computer.", 403)
    try:
        secret = door.pair(code, name, desk.request.client.host if desk.request.client else "")
    except TooManyTriesError as error:
        return _pair_page(desk, page, str(error), 429)
    except NotPairedError as error:
        return _pair_page(desk, page, str(error), 403)
    except WelotropeError as error:
        return _pair_page(desk, page, error.sentence, 422)
    answer = RedirectResponse("/field", 303)
    answer.set_cookie(COOKIE, secret, max_age=COOKIE_S, httponly=True, samesite="strict", path="/")
    return answer


def _pair_page(desk: Desk, page: PairPage, problem: str = "", status: int = 200) -> Response:
    """Show the page by itself: nothing of the kit is on it."""
    shown = PairPage(code=page.code, name=page.name, problem=problem, look=desk.preferences.look.value)
    html = environment().get_template("rooms/everywhere/devices/pair.html").render(page=shown)
    return HTMLResponse(html, status, headers={"cache-control": "no-store"})
