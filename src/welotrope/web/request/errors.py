"""Every failure as a clear page, fragment or JSON; never a stack trace."""

from __future__ import annotations

import logging
import traceback
from collections.abc import Mapping

from fastapi import FastAPI
from fastapi.exceptions import RequestValidationError
from starlette.exceptions import HTTPException
from starlette.requests import Request
from starlette.responses import HTMLResponse, JSONResponse, Response
from starlette.routing import Match

from welotrope.core.errors import WelotropeError
from welotrope.core.units.text import cleaned
from welotrope.interchange.problems import problem_of
from welotrope.interchange.worker_pool import BusyError
from welotrope.store.errors import BrokenRecordError, DatabaseOperationError, NotFoundError, is_busy, is_disk_full
from welotrope.web.request.limits import HEADERS
from welotrope.web.request.preferences import look_of
from welotrope.web.request.templating import environment, with_units_unbroken

_log = logging.getLogger("welotrope")
_TITLES = {
    400: "That could not be read",
    401: "Not paired",
    408: "Too slow",
    403: "Refused",
    404: "Page not found",
    405: "Not possible here",
    409: "That no longer fits",
    413: "Too large",
    422: "That does not work",
    429: "Too many",
    500: "Something went wrong in Welotrope",
    503: "Busy just now",
    507: "The disk is full",
}


def error_response(
    request: Request,
    status: int,
    message: str,
    *,
    field: str | None = None,
    works: str | None = None,
    key: str | None = None,
    headers: Mapping[str, str] | None = None,
) -> Response:
    """Build the answer for a failure: JSON under ``/api``, a fragment for htmx, else a page; strict headers on all."""
    message = cleaned(message)
    sent = {**HEADERS, **(headers or {})}
    if status in (408, 413):  # what is left of the request is not waited for
        sent["connection"] = "close"
    if request.scope["path"].startswith("/api/"):
        detail = {"error": message, "field": field, "key": key, "what_works": works}
        return JSONResponse(detail, status, headers=sent)
    title = _TITLES.get(status, "That did not work")
    name = "shell/error_fragment.html" if request.headers.get("hx-request") else "shell/error.html"
    look = look_of(request)
    html = with_units_unbroken(
        environment().get_template(name).render(title=title, message=message, status=status, look=look)
    )
    return HTMLResponse(html, status, headers=sent)


def _allowed(request: Request) -> set[str]:
    """Methods of every route that answers to the request's path."""
    methods = {
        method
        for method in ("GET", "POST", "PUT", "PATCH", "DELETE")
        for route in request.app.routes
        if route.matches({**request.scope, "method": method})[0] is Match.FULL
    }
    return methods | ({"HEAD"} if "GET" in methods else set())


def _full(request: Request) -> Response:
    return error_response(
        request, 507, "There is no room left on the disk. Nothing was stored; make room and try again."
    )


def _install_shortages(app: FastAPI) -> None:
    """Register the handlers for what is short: time of others, room on the disk."""

    @app.exception_handler(BusyError)
    def _busy(request: Request, error: BusyError) -> Response:
        return error_response(request, 503, str(error), headers={"retry-after": "5"})

    @app.exception_handler(OSError)
    def _os(request: Request, error: OSError) -> Response:
        return _full(request) if is_disk_full(error) else _unexpected(request, error)

    @app.exception_handler(DatabaseOperationError)
    def _database(request: Request, error: DatabaseOperationError) -> Response:
        if is_busy(error):
            return error_response(request, 503, "Another change takes long. Nothing was stored; try again in a while.")
        return _full(request) if is_disk_full(error) else _unexpected(request, error)


def _unexpected(request: Request, error: Exception) -> Response:
    # One line: what was raised, and where; the trace only for who asks for it.
    where = traceback.extract_tb(error.__traceback__)[-1]
    text = cleaned(str(error).partition("\n")[0])[:200]
    _log.error("%s at %s: %s (%s:%s)", type(error).__name__, request.scope["path"], text, where.filename, where.lineno)
    _log.debug("trace", exc_info=error)
    return error_response(
        request, 500, "This was not your doing. Nothing was stored; go back and try again, or reload the page."
    )


def install(app: FastAPI) -> None:
    """Register the handlers."""

    @app.exception_handler(WelotropeError)
    def _welotrope(request: Request, error: WelotropeError) -> Response:
        return error_response(request, 422, error.sentence, field=str(error.field), works=error.works, key=error.key)

    @app.exception_handler(NotFoundError)
    def _not_found(request: Request, error: NotFoundError) -> Response:
        return error_response(request, 404, str(error))

    @app.exception_handler(BrokenRecordError)
    def _broken(request: Request, error: BrokenRecordError) -> Response:
        return error_response(request, 409, str(error))

    @app.exception_handler(RequestValidationError)
    def _validation(request: Request, error: RequestValidationError) -> Response:
        place = error.errors()[0]["loc"][:2]
        # A field that takes several kinds of value fails once per kind; the last kind is the most general.
        last = [detail for detail in error.errors() if detail["loc"][:2] == place][-1]
        field = str(place[-1])
        read = cleaned(str(last.get("input", ""))[:40])
        missing = last["type"] == "missing"
        said = f"{field}: it is missing." if missing else f"{field}: read “{read}”; {problem_of(last)}."
        return error_response(request, 422, said, field=field)

    @app.exception_handler(HTTPException)
    def _http(request: Request, error: HTTPException) -> Response:
        message = error.detail
        if error.status_code == 404:
            message = "This page does not exist. Choose one from the menu, or press / to search."
        headers = dict(error.headers or {})
        if error.status_code == 405:
            headers = {"allow": ", ".join(sorted(_allowed(request)))}
        return error_response(request, error.status_code, message, headers=headers)

    @app.exception_handler(OverflowError)
    def _overflow(request: Request, _error: OverflowError) -> Response:
        return error_response(request, 422, "A number there is larger than anything kept. Write a smaller one.")

    _install_shortages(app)

    app.exception_handler(Exception)(_unexpected)
