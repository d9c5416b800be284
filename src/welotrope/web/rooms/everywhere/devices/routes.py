"""/devices at the computer, /pair on the device."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import HTMLResponse, RedirectResponse, Response

from welotrope.core.errors import WelotropeError
from welotrope.store.queries import devices
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.request.device_pairing import COOKIE, COOKIE_S, DevicePairing, NotPairedError, TooManyTriesError
from welotrope.web.request.templating import environment
from welotrope.web.rooms.everywhere.devices.context import PairPage, devices_page

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
